"""Gelvet measures painted watercolour swatch cards from scans."""

__version__ = "0.2.0"

import os

# Swatches are measured side by side: a matrix library that starts threads of its own for each makes them wait. It reads
# this when it is first loaded.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")
