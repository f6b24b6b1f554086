"""Card layouts, their fiducials, the builder and the printable sheet."""
