"""One zone: its pixels without what is not paint, and its colour (measurement.md 2)."""
