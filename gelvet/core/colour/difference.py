"""CIEDE2000, after G. Sharma, W. Wu, E. N. Dalal, Color Res. Appl. 30 (2005) 21-30; kL = kC = kH = 1."""

import numpy as np

from gelvet.core.arrays import Floats

_POW25_7 = 25.0**7


def _chroma_gain(c_mean: Floats) -> Floats:
    """G, equation 4."""
    c7 = c_mean**7
    return 0.5 * (1 - np.sqrt(c7 / (c7 + _POW25_7)))


def _hue_deg(a_prime: Floats, b: Floats) -> Floats:
    """h', equation 7; 0 for greys."""
    return np.degrees(np.arctan2(b, a_prime)) % 360


def _hue_difference(c1: Floats, c2: Floats, h1: Floats, h2: Floats) -> Floats:
    """Δh', equation 10."""
    difference = h2 - h1
    wrapped = np.where(difference > 180, difference - 360, np.where(difference < -180, difference + 360, difference))
    return np.where(c1 * c2 == 0, 0.0, wrapped)


def _mean_hue(c1: Floats, c2: Floats, h1: Floats, h2: Floats) -> Floats:
    """h̄', equation 14."""
    total = h1 + h2
    far = np.abs(h1 - h2) > 180
    mean = np.where(far, np.where(total < 360, (total + 360) / 2, (total - 360) / 2), total / 2)
    return np.where(c1 * c2 == 0, total, mean)


def _weights(l_mean: Floats, c_mean: Floats, h_mean: Floats) -> tuple[Floats, Floats, Floats, Floats]:
    """S_L, S_C, S_H and R_T, equations 15 to 21."""
    t = (
        1
        - 0.17 * np.cos(np.radians(h_mean - 30))
        + 0.24 * np.cos(np.radians(2 * h_mean))
        + 0.32 * np.cos(np.radians(3 * h_mean + 6))
        - 0.20 * np.cos(np.radians(4 * h_mean - 63))
    )  # Equation (15)
    delta_theta = 30 * np.exp(-(((h_mean - 275) / 25) ** 2))  # Equation (16)
    c7 = c_mean**7
    r_c = 2 * np.sqrt(c7 / (c7 + _POW25_7))  # Equation (17)
    s_l = 1 + 0.015 * (l_mean - 50) ** 2 / np.sqrt(20 + (l_mean - 50) ** 2)  # Equation (18)
    s_c = 1 + 0.045 * c_mean  # Equation (19)
    s_h = 1 + 0.015 * c_mean * t  # Equation (20)
    r_t = -np.sin(np.radians(2 * delta_theta)) * r_c  # Equation (21)
    return s_l, s_c, s_h, r_t


def ciede2000(lab1: Floats, lab2: Floats) -> Floats:
    """CIEDE2000 between `lab1` and `lab2` (..., 3), broadcast; shape (...)."""
    one, two = np.broadcast_arrays(np.asarray(lab1, dtype=float), np.asarray(lab2, dtype=float))
    gain = _chroma_gain((np.hypot(one[..., 1], one[..., 2]) + np.hypot(two[..., 1], two[..., 2])) / 2)
    a1, a2 = (1 + gain) * one[..., 1], (1 + gain) * two[..., 1]  # Equation (5)
    c1, c2 = np.hypot(a1, one[..., 2]), np.hypot(a2, two[..., 2])  # Equation (6)
    h1, h2 = _hue_deg(a1, one[..., 2]), _hue_deg(a2, two[..., 2])
    delta_l, delta_c = two[..., 0] - one[..., 0], c2 - c1  # Equations (8), (9)
    delta_h = 2 * np.sqrt(c1 * c2) * np.sin(np.radians(_hue_difference(c1, c2, h1, h2)) / 2)  # Equation (11)
    s_l, s_c, s_h, r_t = _weights((one[..., 0] + two[..., 0]) / 2, (c1 + c2) / 2, _mean_hue(c1, c2, h1, h2))
    l_term, c_term, h_term = delta_l / s_l, delta_c / s_c, delta_h / s_h
    square = l_term**2 + c_term**2 + h_term**2 + r_t * c_term * h_term  # Equation (22)
    return np.asarray(np.sqrt(np.maximum(square, 0)))
