"""Makers, paints, pigments and papers."""
