"""Stand-ins for paper, paint and devices, with their truth. Shares only colour science and layout with measuring."""
