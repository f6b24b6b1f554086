"""Several shots of one card: laid over each other, and what their different light tells."""
