"""What water does, and its drying (measurement.md 9)."""
