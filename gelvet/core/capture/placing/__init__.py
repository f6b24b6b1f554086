"""Where the card lies in the image: tags, homography, the card's code, and whether shots show the same card."""
