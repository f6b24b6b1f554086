"""Originals by content hash, captures and the jobs that measure them."""
