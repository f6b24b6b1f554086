"""The typed HTTP interface."""
