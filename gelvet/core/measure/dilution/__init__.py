"""From masstone to wash: colour by tint depth, and what follows from it (measurement.md 3)."""
