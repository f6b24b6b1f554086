"""The quantities that measuring gives, as frozen values, by what they are of."""
