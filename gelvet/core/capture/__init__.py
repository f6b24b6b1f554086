"""From an image file to calibrated colour on card coordinates."""
