"""Reading and writing of the interchange files."""
