"""What low lamps show: glints and sheen (measurement.md 6)."""
