"""Questions, sessions and their cards."""
