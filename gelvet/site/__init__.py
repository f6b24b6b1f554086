"""The web application around the core."""
