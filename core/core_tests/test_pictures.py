"""Height and mask images as they are read, against what was written."""

import io
import tempfile
import unittest
from pathlib import Path

import numpy as np
import OpenEXR
from PIL import Image

from cenote_core.errors import FormatError
from cenote_core.formats.picture import read_picture


def encoded(plane, kind, **more):
    out = io.BytesIO()
    Image.fromarray(plane).save(out, kind, **more)
    return out.getvalue()


def exr(channels):
    with tempfile.NamedTemporaryFile(suffix=".exr") as file:
        header = {"compression": OpenEXR.ZIP_COMPRESSION, "type": OpenEXR.scanlineimage}
        OpenEXR.File(header, channels).write(file.name)
        return Path(file.name).read_bytes()


class Reading(unittest.TestCase):
    def test_eight_and_sixteen_bits_by_their_range(self):
        eight = np.arange(0, 256, dtype=np.uint8).reshape(16, 16)
        np.testing.assert_allclose(read_picture(encoded(eight, "PNG"), "a.png"), eight / 255, atol=1e-6)
        sixteen = np.linspace(0, 65535, 240).reshape(12, 20).astype(np.uint16)
        for kind, name in (("PNG", "a.PNG"), ("TIFF", "a.tif")):
            np.testing.assert_allclose(read_picture(encoded(sixteen, kind), name), sixteen / 65535, atol=1e-6)

    def test_floating_point_from_least_to_greatest(self):
        plane = np.linspace(-40, 160, 96).reshape(8, 12).astype(np.float32)
        expected = (plane + 40) / 200
        np.testing.assert_allclose(read_picture(encoded(plane, "TIFF"), "a.tiff"), expected, atol=1e-6)
        np.testing.assert_allclose(read_picture(exr({"Y": plane}), "a.exr"), expected, atol=1e-6)

    def test_exr_takes_the_height_channel_if_there_is_one(self):
        plane = np.random.Generator(np.random.Philox(1)).random((6, 9)).astype(np.float32)
        other = np.zeros_like(plane)
        found = read_picture(exr({"A": other, "Z": plane}), "h.exr")
        self.assertGreater(np.corrcoef(found.ravel(), plane.ravel())[0, 1], 0.999)

    def test_colour_is_read_as_grey_and_a_flat_image_is_zero(self):
        colour = np.zeros((4, 4, 3), np.uint8)
        colour[:2] = 255
        found = read_picture(encoded(colour, "PNG"), "c.png")
        self.assertEqual((found[0, 0], found[3, 3]), (1.0, 0.0))
        flat = np.full((4, 4), 7.5, np.float32)
        self.assertEqual(read_picture(encoded(flat, "TIFF"), "f.tif").max(), 0.0)

    def test_a_palette_image_is_read_by_its_colours(self):
        image = Image.new("P", (4, 2))
        image.putpalette([0, 0, 0, 255, 255, 255])
        image.putdata([0, 1] * 4)
        out = io.BytesIO()
        image.save(out, "PNG")
        np.testing.assert_allclose(read_picture(out.getvalue(), "p.png")[0], [0, 1, 0, 1])


class Refused(unittest.TestCase):
    def refused(self, data, name, words):
        with self.assertRaises(FormatError) as caught:
            read_picture(data, name)
        self.assertIn(words, str(caught.exception))

    def test_what_cannot_be_read_is_said(self):
        good = encoded(np.zeros((8, 8), np.uint8), "PNG")
        self.refused(b"", "a.png", "empty")
        self.refused(good, "a.webp", "none of PNG")
        self.refused(good[:40], "a.png", "cut short")
        self.refused(b"\x89PNG\r\n\x1a\n" + b"\0" * 60, "a.png", "cannot be read")
        self.refused(exr({"Y": np.zeros((4, 4), np.float32)})[:60], "a.exr", "cannot be read")
        self.refused(encoded(np.zeros((8, 8), np.uint8), "JPEG"), "a.png", "in truth a JPEG")
        self.refused(encoded(np.zeros((1, 30), np.uint8), "PNG"), "a.png", "two pixels")

    def test_gaps_and_absurd_sizes(self):
        gaps = np.zeros((6, 6), np.float32)
        gaps[2, 2] = np.nan
        self.refused(encoded(gaps, "TIFF"), "a.tif", "not numbers")
        gaps[2, 2] = np.inf
        self.refused(exr({"Y": gaps}), "a.exr", "not numbers")
        out = io.BytesIO()
        Image.new("1", (9000, 9000)).save(out, "PNG")
        self.refused(out.getvalue(), "a.png", "at most 8192")


if __name__ == "__main__":
    unittest.main()
