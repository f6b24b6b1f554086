"""From a device's light to XYZ: tone curve, profiles, the competing models and what they leave over."""
