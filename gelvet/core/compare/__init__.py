"""Differences between measured paints, in figures and in words."""
