"""Colour spaces, differences and the optics of paint layers."""
