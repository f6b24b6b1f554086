"""Device profiles that a file holds."""

import tempfile
import unittest
from pathlib import Path

import numpy as np

from gelvet.core.capture.colour.icc import read_profile
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import decode_srgb
from gelvet.core.pipeline import measure_image
from tests import simulated


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


class ProfileOfAScan(unittest.TestCase):
    def test_an_embedded_profile_alone_gives_the_profile_tier(self) -> None:
        import imagecodecs

        made = simulated.bench()
        with tempfile.TemporaryDirectory() as folder:
            linear = (made.capture.image / 65535) ** 2.2
            encoded = np.where(linear <= 0.0031308, 12.92 * linear, 1.055 * linear ** (1 / 2.4) - 0.055)
            path = simulated.write_tiff(
                Path(folder) / "tagged.tif", (encoded * 65535).astype(np.uint16), iccprofile=imagecodecs.cms_profile("srgb")
            )
            document = measure_image(path, made.layout, None).document
        self.assertEqual(document["calibration"]["tier"], "profile")
        zones, true = document["zones"], made.truth["zones"]
        errors = [
            float(ciede2000(np.array(zones[n]["lab"]), np.array(true[n]["lab"]))) / zones[n]["u"] for n in true if "gradient" not in n
        ]
        self.assertLess(float(np.sqrt(np.mean(np.square(errors)))), 2)

    def test_a_damaged_profile_is_told_and_the_target_counts(self) -> None:
        made = simulated.bench()
        with tempfile.TemporaryDirectory() as folder:
            path = simulated.write_tiff(Path(folder) / "damaged.tif", made.capture.image, iccprofile=b"no profile at all" * 9)
            calibration = measure_image(path, made.layout, made.capture.reference).document["calibration"]
        self.assertEqual(calibration["tier"], "target")
        self.assertIn("colour profile is damaged", " ".join(calibration["warnings"]))
