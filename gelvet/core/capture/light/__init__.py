"""Light on the card: uneven, mirrored, shadowed; what the bare paper shows of it."""
