"""Any old scan or photograph of a swatch sheet, without a printed card: what is painted on it, and a layout to start from."""
