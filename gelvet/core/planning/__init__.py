"""Planning a session: what to lay side by side, how, in which order, and what it takes. Pure values in and out."""
