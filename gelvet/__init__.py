"""Gelvet measures painted watercolour swatch cards from scans."""

__version__ = "0.1.0"
