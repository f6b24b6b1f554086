"""Unevenness of lightness: granulation, its spectrum, the paper's relief (measurement.md 4)."""
