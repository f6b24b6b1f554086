"""What robust statistics share."""

# Standard deviation of normal values over the median of their absolute deviations, 1 / Φ⁻¹(3/4) (F. R. Hampel, J. Am. Stat. Assoc.
# 69 (1974) 383-393).
SPREAD_OF_MEDIAN = 1.4826
