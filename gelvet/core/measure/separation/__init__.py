"""Colours that part: pigments off the paint's path, and the two that it is made of (measurement.md 5)."""
