"""The Marram Coast demo."""
