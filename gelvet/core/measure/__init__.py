"""One module a quantity: each turns calibrated pixels into figures with uncertainties."""
