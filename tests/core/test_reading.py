"""Image files: every supported kind gives the same pixels, every broken one a sentence with its name."""

import struct
import tempfile
import tracemalloc
import unittest
import zlib
from pathlib import Path

import cv2
import numpy as np

from gelvet.core.capture.reading import read_picture, upright
from gelvet.core.errors import ImageError
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
        }
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


if __name__ == "__main__":
    unittest.main()
