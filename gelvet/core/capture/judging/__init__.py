"""Whether a capture may be believed: clipping, noise, drift, and the gates that follow."""
