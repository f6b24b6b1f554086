"""Device profiles that a file holds."""

import unittest

import numpy as np

from gelvet.core.capture.colour.icc import read_profile
from gelvet.core.colour.spaces import decode_srgb


class Profiles(unittest.TestCase):
    def test_the_display_profile_is_the_display_standard(self) -> None:
        import imagecodecs

        profile = read_profile(imagecodecs.cms_profile("srgb"))
        assert profile is not None
        code = np.linspace(0, 1, 40)[:, None] * np.ones(3)
        np.testing.assert_allclose(profile.linearise(code), decode_srgb(code), atol=2e-3)
        np.testing.assert_allclose(profile.model.to_xyz(np.ones((1, 3)))[0], [96.42, 100, 82.49], rtol=2e-3)
        self.assertLess(profile.misfit_de00, 0.5)

    def test_a_broken_profile_is_no_profile(self) -> None:
        self.assertIsNone(read_profile(b"not a profile"))
