"""Image files: every supported kind gives the same pixels, every broken one a sentence with its name."""

import struct
import tempfile
import tracemalloc
import unittest
import zlib
from pathlib import Path

import cv2
import numpy as np
import tifffile
from PIL import Image as Pillow

from gelvet.core.arrays import Image
from gelvet.core.capture.reading import read_picture
from gelvet.core.capture.reading.picture import Picture, upright
from gelvet.core.errors import ImageError
from gelvet.core.pipeline import scale_warnings
from tests.damaged import damaged_files, soft_pixels, write_every_kind, write_heif, write_raw
from tests.simulated import write_tiff


class Reading(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        rng = np.random.default_rng(0)
        soft = cv2.GaussianBlur(rng.integers(0, 65535, (220, 260, 3)).astype(np.uint16), (0, 0), 5)
        self.pixels = np.asarray(soft, dtype=np.uint16)

    def test_sixteen_bit_tiff_in_every_compression(self) -> None:
        for compression in (None, "zlib", "lzw", "zstd"):
            with self.subTest(compression=compression):
                path = write_tiff(self.folder / "a.tif", self.pixels, compression=compression)
                np.testing.assert_array_equal(read_picture(path).pixels, self.pixels)

    def test_planar_alpha_float_and_extended_tiff(self) -> None:
        planar = write_tiff(self.folder / "p.tif", np.moveaxis(self.pixels, -1, 0), planarconfig="separate")
        np.testing.assert_array_equal(read_picture(planar).pixels, self.pixels)
        alpha = np.dstack([self.pixels, np.full(self.pixels.shape[:2], 65535, np.uint16)])
        np.testing.assert_array_equal(
            read_picture(write_tiff(self.folder / "q.tif", alpha, extrasamples=["unassalpha"])).pixels, self.pixels
        )
        scaled = (self.pixels / 65535).astype(np.float32)
        np.testing.assert_allclose(read_picture(write_tiff(self.folder / "f.tif", scaled)).pixels.astype(int), self.pixels, atol=1)
        self.assertEqual(read_picture(write_tiff(self.folder / "b.tif", self.pixels, bigtiff=True)).pixels.dtype, np.uint16)

    def test_png_keeps_sixteen_bits_and_colour_order(self) -> None:
        path = self.folder / "a.png"
        cv2.imwrite(str(path), self.pixels[..., ::-1])
        np.testing.assert_array_equal(read_picture(path).pixels, self.pixels)

    def test_jpeg_and_webp_are_eight_bit_and_close(self) -> None:
        eight = (self.pixels >> 8).astype(np.uint8)
        for name in ("a.jpg", "a.webp"):
            path = self.folder / name
            cv2.imwrite(str(path), eight[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 98, cv2.IMWRITE_WEBP_QUALITY, 100])
            found = read_picture(path).pixels
            self.assertEqual(found.dtype, np.uint8)
            self.assertLess(float(np.abs(found.astype(int) - eight).mean()), 3)

    def test_not_finite_parts_are_marked(self) -> None:
        scaled = (self.pixels / 65535).astype(np.float32)
        scaled[:20] = np.nan
        picture = read_picture(write_tiff(self.folder / "n.tif", scaled))
        assert picture.finite is not None
        self.assertFalse(picture.finite[:20].any())
        self.assertTrue(picture.finite[20:].all())

    def test_orientations_of_a_camera(self) -> None:
        """Exif 2.32, table 6: the stored corner that the number says is the visual top-left."""
        picture = np.arange(6).reshape(2, 3, 1)
        tops = {1: [0, 1, 2], 2: [2, 1, 0], 3: [5, 4, 3], 4: [3, 4, 5], 5: [0, 3], 6: [3, 0], 7: [5, 2], 8: [2, 5]}
        for orientation, first_row in tops.items():
            with self.subTest(orientation=orientation):
                self.assertEqual(upright(picture, orientation)[0, :, 0].tolist(), first_row)

    def test_refusals_name_the_file_and_the_way_out(self) -> None:
        whole = write_tiff(self.folder / "whole.tif", self.pixels).read_bytes()
        png = cv2.imencode(".png", self.pixels)[1].tobytes()
        jpeg = cv2.imencode(".jpg", (self.pixels >> 8).astype(np.uint8))[1].tobytes()
        cases = {
            "empty": (b"", "zero bytes"),
            "notes.txt": (b"masstone first, then draw out", "not an image"),
            "half.tif": (whole[: len(whole) // 2], "cut short|damaged"),
            "half.png": (png[: len(png) // 2], "cut short|damaged"),
            "half.jpg": (jpeg[: len(jpeg) // 2], "cut short|damaged"),
            "head.tif": (whole[:12], "damaged|cut short"),
        }
        for name, (data, words) in cases.items():
            with self.subTest(name=name):
                path = self.folder / name
                path.write_bytes(data)
                with self.assertRaisesRegex(ImageError, f"{name}.*({words})"):
                    read_picture(path)
        with self.assertRaisesRegex(ImageError, "cannot be read"):
            read_picture(self.folder / "gone.tif")

    def test_grey_cmyk_and_line_art_are_refused(self) -> None:
        grey = self.pixels[..., 0]
        cmyk = np.dstack([self.pixels, grey])
        cases = {
            "grey": write_tiff(self.folder / "g.tif", grey, photometric="minisblack"),
            "CMYK": write_tiff(self.folder / "c.tif", cmyk, photometric="separated"),
            "1-bit": write_tiff(self.folder / "l.tif", grey > 30000, photometric="minisblack"),
            "grey image": write_tiff(self.folder / "three-alike.tif", np.dstack([grey] * 3)),
        }
        saved = self.folder / "in-colour.jpg"
        saved.write_bytes(cv2.imencode(".jpg", np.dstack([(grey >> 8).astype(np.uint8)] * 3))[1].tobytes())
        cases["is a grey"] = saved
        for words, path in cases.items():
            with self.subTest(words=words), self.assertRaisesRegex(ImageError, words):
                read_picture(path)

    def test_all_not_finite_and_all_black_floats_are_refused(self) -> None:
        for value, words in ((np.nan, "no finite number"), (0.0, "black throughout")):
            path = write_tiff(self.folder / "v.tif", np.full((220, 260, 3), value, np.float32))
            with self.subTest(value=value), self.assertRaisesRegex(ImageError, words):
                read_picture(path)

    def test_a_png_bomb_is_refused_before_it_is_decoded(self) -> None:
        def chunk(kind: bytes, data: bytes) -> bytes:
            return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

        header = struct.pack(">IIBBBBB", 30_000, 30_000, 8, 2, 0, 0, 0)
        path = self.folder / "bomb.png"
        path.write_bytes(
            b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", header) + chunk(b"IDAT", zlib.compress(b"\0" * 100_000)) + chunk(b"IEND", b"")
        )
        tracemalloc.start()
        with self.assertRaisesRegex(ImageError, "30000 × 30000"):
            read_picture(path)
        peak = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        self.assertLess(peak, 20_000_000)


class StepsOfColour(unittest.TestCase):
    """How coarsely a JPEG stores colour."""

    def written(self, pixels: Image, *settings: int) -> Picture:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / ("shot.jpg" if settings else "shot.png")
            cv2.imwrite(str(path), pixels[..., ::-1], list(settings))
            return read_picture(path)

    def test_they_are_read_from_the_file_itself(self) -> None:
        pixels = np.full((240, 320, 3), 128, np.uint8)
        halved = self.written(pixels, cv2.IMWRITE_JPEG_QUALITY, 92).colour_steps
        full = self.written(pixels, cv2.IMWRITE_JPEG_QUALITY, 75, cv2.IMWRITE_JPEG_SAMPLING_FACTOR, 0x111111).colour_steps
        assert halved is not None and full is not None
        self.assertEqual([(halved.down, halved.across), (full.down, full.across)], [(2, 2), (1, 1)])
        self.assertEqual(halved.steps.shape, (2, 8, 8))
        self.assertGreater(full.steps.mean(), 2 * halved.steps.mean())
        png = self.written(pixels)
        self.assertIsNone(png.colour_steps)
        self.assertEqual([png.coarse_colour, self.written(pixels, cv2.IMWRITE_JPEG_QUALITY, 92).coarse_colour], [False, True])


class Scale(unittest.TestCase):
    def test_files_say_their_resolution_and_nonsense_is_none(self) -> None:
        pixels = np.full((240, 240, 3), 128, np.uint8)
        with tempfile.TemporaryDirectory() as folder:
            inch, centimetre, bare, png = (Path(folder) / name for name in ("i.tif", "c.tif", "n.tif", "p.png"))
            tifffile.imwrite(inch, pixels, photometric="rgb", resolution=(300, 300), resolutionunit=2)
            tifffile.imwrite(centimetre, pixels, photometric="rgb", resolution=(118.11, 118.11), resolutionunit=3)
            tifffile.imwrite(bare, pixels, photometric="rgb", resolutionunit=1)
            Pillow.fromarray(pixels).save(png, dpi=(200, 200))
            stated = [read_picture(path).stated_dpi for path in (inch, centimetre, bare, png)]
        self.assertIsNone(stated[2])
        for found, true in zip([stated[0], stated[1], stated[3]], (300, 300, 200), strict=True):
            self.assertAlmostEqual(found or 0, true, delta=0.1)

    def test_a_printer_that_scales_is_noticed_and_a_cameras_fancy_is_not(self) -> None:
        true = 300 / 25.4
        self.assertIn("97.0 % of its size", scale_warnings(300, true * 0.97)[0])
        for stated, measured in ((300, true * 1.005), (None, true), (72, true), (300, true * 2)):
            self.assertEqual(scale_warnings(stated, measured), [])


class OtherKinds(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.pixels = soft_pixels()

    def test_raw_is_the_sensors_own_light(self) -> None:
        found = read_picture(write_raw(self.folder / "a.dng", self.pixels))
        self.assertTrue(found.linear)
        inner = (slice(20, -20), slice(20, -20))
        # The library lays the sensor's full scale on 65535 and guesses between its pixels.
        np.testing.assert_allclose(found.pixels[inner].astype(float), self.pixels[inner], atol=2500)
        self.assertLess(float(np.abs(found.pixels[inner].astype(float) - self.pixels[inner]).mean()), 300)

    def test_heif_keeps_more_than_eight_bits(self) -> None:
        ramp = np.repeat(np.linspace(20000, 40000, 300)[None, :, None], 240, axis=0).repeat(3, axis=2).astype(np.uint16)
        ramp[..., 2] -= 3000  # of three like channels it would be a grey image
        found = read_picture(write_heif(self.folder / "a.heic", ramp)).pixels
        self.assertEqual(found.dtype, np.uint16)
        self.assertGreater(len(np.unique(found[120, :, 1])), 150)
        self.assertLess(float(np.abs(found.astype(float) - ramp).mean()), 400)

    def test_cut_files_and_a_picture_under_a_false_name(self) -> None:
        for path in (write_heif(self.folder / "b.heic", self.pixels), write_raw(self.folder / "b.dng", self.pixels)):
            path.write_bytes(path.read_bytes()[:-3000])
            with self.subTest(path=path.name), self.assertRaisesRegex(ImageError, path.name):
                read_picture(path)
        false_name = self.folder / "really-a-png.tif"
        cv2.imwrite(str(self.folder / "a.png"), self.pixels)
        (self.folder / "a.png").rename(false_name)
        self.assertEqual(read_picture(false_name).pixels.shape, self.pixels.shape)

    def test_the_exposure_is_kept_and_the_place_is_not(self) -> None:
        exif = Pillow.Exif()
        exif[0x0110] = "Stand camera"
        exif[0x9003] = "2026:05:01 10:00:00"
        exif.get_ifd(0x8769).update({0x829A: 0.008, 0x829D: 5.6, 0x8827: 200, 0xA431: "SERIAL-123", 0xA434: "50 mm"})
        exif.get_ifd(0x8825).update({1: "N", 2: (54.0, 1.0, 2.0)})
        path = self.folder / "a.jpg"
        Pillow.fromarray((self.pixels >> 8).astype(np.uint8)).save(path, exif=exif, quality=90)
        kept = read_picture(path).provenance
        self.assertEqual((kept["camera"], kept["f_number"], kept["iso"], kept["lens"]), ("Stand camera", 5.6, 200, "50 mm"))
        self.assertNotIn("SERIAL-123", str(kept))
        self.assertNotIn("54", str(kept))

    def test_damaged_files_are_read_or_refused_with_a_sentence(self) -> None:
        refused = 0
        for name, content in damaged_files(write_every_kind(self.folder), 150, seed=8):
            path = self.folder / f"damaged-{name}"
            path.write_bytes(content)
            try:
                read_picture(path)
            except ImageError as problem:
                refused += 1
                self.assertGreater(len(str(problem)), 20)
                self.assertNotIn("\n", str(problem))
        self.assertGreater(refused, 50)

    def test_a_jpegs_even_patch_keeps_its_colour_to_a_fraction_of_a_step(self) -> None:
        rng = np.random.default_rng(1)
        for colour in ((230, 228, 222), (120, 60, 40), (40, 90, 160)):
            noisy = np.clip(np.round(np.array(colour) + rng.normal(0, 1.2, (224, 256, 3))), 0, 255).astype(np.uint8)
            path = self.folder / "patch.jpg"
            cv2.imwrite(str(path), noisy[..., ::-1], [cv2.IMWRITE_JPEG_QUALITY, 92])
            found = read_picture(path).pixels
            with self.subTest(colour=colour):
                np.testing.assert_allclose(found.mean(axis=(0, 1)), noisy.mean(axis=(0, 1)), atol=0.35)

    def test_a_jpeg_stands_upright_whatever_its_exif_says_and_however_it_is_coded(self) -> None:
        picture = np.zeros((220, 300, 3), np.uint8)
        picture[:60, :90] = (250, 0, 0)
        for orientation in (1, 3, 6, 8, 2, 5, 9):
            for options in ({}, {"progressive": True}, {"subsampling": 0}):
                exif = Pillow.Exif()
                exif[0x0112] = orientation
                path = self.folder / "turned.jpg"
                Pillow.fromarray(picture).save(path, quality=92, exif=exif, **options)
                with self.subTest(orientation=orientation, options=options):
                    wanted = upright(picture, orientation)
                    found = read_picture(path).pixels
                    self.assertEqual(found.shape, wanted.shape)
                    self.assertLess(float(np.abs(found.astype(int) - wanted).mean()), 3)
