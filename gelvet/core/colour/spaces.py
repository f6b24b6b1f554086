"""XYZ, CIELAB, CIELCh(ab) and display sRGB for the CIE 1931 2° observer under D50, Y = 100 for the perfect diffuser."""

import numpy as np

from gelvet.core.arrays import Floats

# ISO 13655:2017 / ICC.1:2022, 6.3.4.3: D50 tristimulus values of the perfect diffuser.
WHITE_D50 = np.array([96.42, 100.0, 82.49])
# CIE 15:2018, table T.3: D65, 2° observer.
WHITE_D65 = np.array([95.047, 100.0, 108.883])

# CIE 15:2018, 8.2.1: exact fractions of the CIELAB function's two branches.
_EPSILON = 216 / 24389
_KAPPA = 24389 / 27

# K. M. Lam, Metamerism and Colour Constancy (1985): the Bradford cone matrix.
BRADFORD = np.array([[0.8951, 0.2664, -0.1614], [-0.7502, 1.7135, 0.0367], [0.0389, -0.0685, 1.0296]])

# IEC 61966-2-1:1999: chromaticities of the sRGB primaries.
_SRGB_PRIMARIES = np.array([[0.64, 0.33], [0.30, 0.60], [0.15, 0.06]])


def xyz_to_lab(xyz: Floats, white: Floats = WHITE_D50) -> Floats:
    """CIELAB of `xyz` (..., 3), Y = 100 for white. CIE 15:2018, equations 8.3 to 8.8."""
    xyz = np.asarray(xyz)
    kind = xyz.dtype if xyz.dtype.kind == "f" else np.dtype(float)
    # Channel by channel: numpy takes three times as long for arithmetic along so short an axis.
    x, y, z = (_root(xyz[..., c] / white[c].astype(kind)) for c in range(3))
    lab: Floats = np.empty(xyz.shape, dtype=kind)
    lab[..., 0], lab[..., 1], lab[..., 2] = 116 * y - 16, 500 * (x - y), 200 * (y - z)
    return lab


def _root(ratio: Floats) -> Floats:
    """CIE 15:2018, equations 8.6 to 8.8, of one channel."""
    root, dark = np.cbrt(ratio), ratio <= _EPSILON
    return np.asarray(np.where(dark, (_KAPPA * ratio + 16) / 116, root) if np.any(dark) else root)  # seldom, and twice the work


def lab_to_xyz(lab: Floats, white: Floats = WHITE_D50) -> Floats:
    """Inverse of `xyz_to_lab`; `lab` (..., 3)."""
    lab = np.asarray(lab, dtype=float)
    fy = (lab[..., 0] + 16) / 116
    f = np.stack([fy + lab[..., 1] / 500, fy, fy - lab[..., 2] / 200], axis=-1)
    cubed = f**3
    return np.where(cubed > _EPSILON, cubed, (116 * f - 16) / _KAPPA) * white


def lightness(y: Floats) -> Floats:
    """L* of luminance factor `y` (any shape), Y = 100 for white."""
    ratio = np.asarray(y) / 100.0
    return np.where(ratio > _EPSILON, 116 * np.cbrt(ratio) - 16, _KAPPA * ratio)


def lab_to_lch(lab: Floats) -> Floats:
    """L*, C*, hue in degrees 0 to 360 of `lab` (..., 3)."""
    lab = np.asarray(lab, dtype=float)
    hue_deg = np.degrees(np.arctan2(lab[..., 2], lab[..., 1])) % 360
    return np.stack([lab[..., 0], np.hypot(lab[..., 1], lab[..., 2]), hue_deg], axis=-1)


def adaptation_matrix(source: Floats, target: Floats) -> Floats:
    """Bradford matrix (3, 3) that takes XYZ under white `source` to white `target`."""
    gains = (BRADFORD @ target) / (BRADFORD @ source)
    return np.asarray(np.linalg.inv(BRADFORD) @ np.diag(gains) @ BRADFORD)


def _rgb_to_xyz_d65() -> Floats:
    """Derived, not typed: primaries scaled so that R = G = B = 1 gives the white point."""
    xyz = np.column_stack([_SRGB_PRIMARIES, 1 - _SRGB_PRIMARIES.sum(axis=1)]).T
    return xyz * np.linalg.solve(xyz, WHITE_D65 / 100)


SRGB_FROM_XYZ_D50 = np.linalg.inv(_rgb_to_xyz_d65()) @ adaptation_matrix(WHITE_D50, WHITE_D65) / 100
XYZ_D50_FROM_SRGB = np.linalg.inv(SRGB_FROM_XYZ_D50)


def encode_srgb(linear: Floats) -> Floats:
    """sRGB transfer function, IEC 61966-2-1 equation 4; `linear` 0 to 1, clipped."""
    value = np.clip(linear, 0, 1)
    return np.where(value <= 0.0031308, 12.92 * value, 1.055 * np.power(value, 1 / 2.4) - 0.055)


def decode_srgb(encoded: Floats) -> Floats:
    """Inverse of `encode_srgb`; `encoded` 0 to 1."""
    value = np.asarray(encoded)
    return np.where(value <= 0.04045, value / 12.92, np.power((value + 0.055) / 1.055, 2.4))


def xyz_to_srgb8(xyz: Floats) -> tuple[Floats, Floats]:
    """Display bytes (..., 3) uint8 of `xyz` (..., 3), and a mask (...) of what lies inside the display gamut."""
    linear = np.asarray(xyz) @ SRGB_FROM_XYZ_D50.T.astype(np.asarray(xyz).dtype)
    inside = np.all((linear > -0.0005) & (linear < 1.0005), axis=-1)
    return (encode_srgb(linear) * 255 + 0.5).astype(np.uint8), inside


def hex_colour(xyz: Floats) -> tuple[str, bool]:
    """`#rrggbb` of one XYZ (3,), and whether it is inside the display gamut."""
    rgb, inside = xyz_to_srgb8(np.asarray(xyz, dtype=float))
    return "#" + "".join(f"{int(v):02x}" for v in rgb), bool(inside)
