"""Measurements as versions, and the pictures that views need."""
