"""A stand-in camera's files and sounds are read back to the burst that it shot."""

import struct
import unittest
from dataclasses import replace
from datetime import datetime
from pathlib import PurePath

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from PIL import Image

from engine.burst.scenario import File, LoadedSlot, Scenario
from engine.burst.simulate import simulate
from engine.measurement.capture_times import (
    Picture,
    find_bursts,
    frames_of,
    of_each_body,
    with_deleted,
)
from engine.measurement.picture_files import HEAD_BYTES, NoPicture, read_picture
from engine.measurement.picture_table import BadPictureTable, as_line, pictures_of, read_pictures
from engine.measurement.synthetic_camera import (
    jpeg_of,
    picture_files,
)

MOMENT = datetime(2026, 5, 1, 6, 30, 12, 340_000)
BURST = simulate(Scenario(
    frame_rate_fps=20, hold_s=6, memory_mb=1, files=(File(name="jpeg", mb=0.03),),
    slots=(LoadedSlot(write_mb_s=0.3),), held_mb=0.05,
))  # fmt: skip


def pictures(start_s: float, count: int, name: str = "A", **changes: object) -> list[Picture]:
    """A burst of ten frames a second."""
    return [
        Picture(name=f"{name}{n:04d}.RAW", mb=20 + n % 3, taken_s=start_s + n / 10, **changes)
        for n in range(count)
    ]


class Files(unittest.TestCase):
    def test_a_simulated_burst_comes_back_from_its_files(self) -> None:
        read = [
            read_picture(name, content[:HEAD_BYTES], len(content))
            for name, content in picture_files(BURST)
        ]
        (burst,) = find_bursts(read).bursts
        self.assertEqual(BURST.frames, burst.strokes.frames)
        self.assertAlmostEqual(BURST.frames_at_full_speed, burst.strokes.wall, delta=1)
        self.assertAlmostEqual(20, burst.strokes.frame_rate_fps, delta=0.3)
        self.assertAlmostEqual(10, burst.strokes.sustained_fps, delta=0.5)
        self.assertAlmostEqual(0.03, burst.mean_mb, delta=0.001)

    def test_other_containers_are_read_too(self) -> None:
        exif = Image.Exif()
        exif.get_ifd(0x8769).update({0x9003: "2026:05:01 06:30:12", 0x9291: "345"})
        like_tiff = exif.tobytes().removeprefix(b"Exif\0\0")
        picture = read_picture("a.dng", like_tiff, 30_000_000)
        self.assertEqual(3, picture.decimals)
        self.assertAlmostEqual(12.345, picture.taken_s % 60, places=5)

    def test_what_is_no_picture_gets_a_sentence(self) -> None:
        jpeg = jpeg_of(MOMENT, 5_000)
        for content in (b"", b"MZ\x90\0" * 500, b"\xff\xd8\xff", jpeg[:60], b"%PDF-1.7" * 9):
            with self.assertRaisesRegex(NoPicture, r"^x\.jpg "):
                read_picture("x.jpg", content, len(content))
        with self.assertRaisesRegex(NoPicture, "larger than"):
            read_picture("x.jpg", jpeg, 2_000_000_000)
        loop = b"II*\0" + struct.pack("<IHHHIII", 8, 1, 0x8769, 4, 1, 8, 8)
        with self.assertRaises(NoPicture):
            read_picture("loop.tif", loop, len(loop))

    @settings(max_examples=150, deadline=None)
    @given(st.data())
    def test_a_damaged_file_gives_a_picture_or_a_sentence(self, data: st.DataObject) -> None:
        content = bytearray(jpeg_of(MOMENT, 2_000))
        for _ in range(data.draw(st.integers(1, 8))):
            content[data.draw(st.integers(0, 400))] = data.draw(st.integers(0, 255))
        try:
            picture = read_picture("x.jpg", bytes(content), len(content))
        except NoPicture:
            return
        self.assertTrue(np.isfinite(picture.taken_s))


class Folders(unittest.TestCase):
    def test_a_day_has_its_bursts_and_what_is_odd_is_told(self) -> None:
        day = [
            *pictures(0, 30), *pictures(60, 12, "B"), *pictures(200, 1, "C"),
            *pictures(300, 10, "D", body="Other"),
        ]  # fmt: skip
        found = find_bursts(day)
        self.assertEqual([30, 12, 10], [len(burst.frames) for burst in found.bursts])
        self.assertEqual(1, found.singles)
        for changed, words in (
            ([*day, day[0]], "there twice"),
            ([replace(one, decimals=0) for one in day], "whole seconds only"),
            ([one for one in day if "A001" not in one.name], "numbers are missing"),
            ([*day[20:30], *(replace(one, taken_s=one.taken_s + 99) for one in day[:20])],
             "clock goes back"),
            (day, "of 2 bodies"),
        ):  # fmt: skip
            with self.subTest(words):
                self.assertIn(words, " ".join(find_bursts(changed).notes))

    @given(st.integers(-14, 14), st.lists(st.floats(60, 7_000), min_size=12, max_size=30))
    def test_clocks_that_are_hours_apart_are_told(self, hours: int, pauses_s: list[float]) -> None:
        """Of bodies that are used in turn; of those whose clocks agree nothing is said."""
        moments_s = np.cumsum(pauses_s)
        day = [
            picture
            for number, moment_s in enumerate(moments_s.tolist())
            for picture in (
                *pictures(moment_s, 3, f"A{number}"),
                *pictures(moment_s + 20 - 3_600 * hours, 3, f"B{number}", body="Other"),
            )
        ]
        told = [note for note in find_bursts(day).notes if "ahead of" in note]
        if not hours:
            self.assertEqual([], told)
        elif moments_s[-1] - moments_s[0] < 3_600 * abs(hours):  # which never are side by side
            (note,) = told
            words = "1 hour ahead" if abs(hours) == 1 else f"{abs(hours)} hours ahead"
            self.assertIn(words, note)
            self.assertEqual(hours < 0, note.startswith("Is the clock of the Other"))

    def test_raw_and_jpeg_of_one_frame_are_one_stroke(self) -> None:
        both = [
            replace(one, name=str(PurePath(one.name).with_suffix(ending)))
            for one in pictures(0, 20)
            for ending in (".RAW", ".JPG")
        ]
        (burst,) = find_bursts(both).bursts
        self.assertEqual((20, {"RAW", "JPG"}), (burst.strokes.frames, set(burst.mb_of_ending)))

    @given(st.sets(st.sampled_from([*range(4, 23, 4), *range(29, 38, 4)])), st.integers(1, 2))
    def test_frames_that_were_deleted_between_others_are_put_back(
        self, places: set[int], in_a_row: int
    ) -> None:
        taken_s = [0.05 * n if n < 26 else 1.25 + 0.2 * (n - 25) for n in range(40)]  # full at 26
        deleted = {place + more for place in places for more in range(in_a_row)}
        every = [
            (Picture(name=f"A{n:04d}.RAW", mb=20, taken_s=moment_s),)
            for n, moment_s in enumerate(taken_s)
        ]
        found = with_deleted([one for n, one in enumerate(every) if n not in deleted])
        np.testing.assert_allclose(taken_s, [moment_s for moment_s, _ in found], atol=0.001)
        # Between bursts there was nothing, or a burst of its own.
        apart = with_deleted([*every[:10], (replace(every[0][0], name="A0099.RAW", taken_s=60),)])
        self.assertEqual(11, len(apart))

    def test_two_bodies_of_one_model_are_told_by_the_names_of_their_files(self) -> None:
        one, other = pictures(0, 30, "SKR_", body="Tarn"), pictures(1.03, 30, "KLO_", body="Tarn")
        bodies = of_each_body([*one, *other])
        self.assertEqual({"Tarn (SKR)", "Tarn (KLO)"}, set(bodies))
        later = pictures(60, 30, "_SKR", body="Tarn")  # another colour space
        renamed = pictures(90, 30, "KLO_", body="Tarn")  # in the menu of the body
        self.assertEqual({"Tarn"}, set(of_each_body([*one, *later, *renamed])))
        self.assertEqual(60, len(frames_of([*one, *later])))


class Tables(unittest.TestCase):
    def test_columns_are_known_by_what_programs_call_them(self) -> None:
        for text in (
            "Name;Body;File size;Date/Time Original\nA.RAW;Tarn 3;24,5 MB;2026:05:01 06:30:12.34",
            "SourceFile,GPSLatitude,EXIF:DateTimeOriginal,SubSecTimeOriginal,FileSize,Make,Model\n"
            "b/A.RAW,54.1,2026:05:01 06:30:12+01:00,34,24500000,Tarn,3",
            "[File] Size\t[EXIF] SubSec Date Time Original\tCamera\tFile Name\n"
            "24500000 bytes\t2026:05:01 06:30:12.34\tTarn 3\tA.RAW",
        ):
            with self.subTest(text):
                (picture,) = read_pictures(text)
                self.assertEqual(
                    ("A.RAW", "Tarn 3", 2), (picture.name, picture.body, picture.decimals)
                )
                self.assertAlmostEqual(24.5, picture.mb)
                self.assertAlmostEqual(12.34, picture.taken_s % 60, places=5)
        with self.assertRaisesRegex(BadPictureTable, "Line 1: no column has a size"):
            read_pictures("name,time\nA.RAW,1")

    def test_objects_are_read_as_lines_are(self) -> None:
        (picture,) = pictures_of([{
            "File": {"FileName": "A.RAW", "FileSize": "24.5 MB"}, "EXIF": {"SerialNumber": "SECRET",
            "DateTimeOriginal": "2026:05:01 06:30:12", "SubSecTimeOriginal": 34, "Model": "Tarn"},
        }])  # fmt: skip
        self.assertEqual(
            ("A.RAW", "Tarn", 2, 24.5), (picture.name, picture.body, picture.decimals, picture.mb)
        )
        self.assertNotIn("SECRET", repr(picture))
        seconds = pictures_of([{"taken_s": n / 4, "mb": 30} for n in range(9)])
        self.assertEqual({2}, {one.decimals for one in seconds})
        for objects, words in (
            ([], "no column"),
            ([3, None], "no column"),
            ([{"mb": 1}], "no column has a time"),
            ([{"time": "noon", "mb": 1}], "Picture 1: “noon” is no time"),
        ):
            with self.subTest(objects), self.assertRaisesRegex(BadPictureTable, words):
                pictures_of(objects)

    def test_what_is_written_is_read_again(self) -> None:
        written = [*pictures(0, 12, body='Tarn, "1"'), *pictures(90, 5, "B", decimals=0)]
        read = read_pictures("".join(map(as_line, written)))
        self.assertEqual([one.name for one in written], [one.name for one in read])
        for one, other in zip(written[:12], read, strict=False):
            self.assertAlmostEqual(one.taken_s, other.taken_s, places=1)
        self.assertEqual({0, 2}, {one.decimals for one in read})

    def test_moments_and_seconds_with_or_without_a_header(self) -> None:
        for text in ("name,time,mb\na.jpg,2026-05-01 06:30:12.34,24.5", "a.jpg, 12.34, 24.5",
                     "a.jpg,2026:05:01 06:30:12.34,24.5,Tarn"):  # fmt: skip
            (picture,) = read_pictures(text)
            self.assertAlmostEqual(12.34, picture.taken_s % 60, places=5)
            self.assertEqual((2, 24.5), (picture.decimals, picture.mb))

    def test_each_bad_line_gets_a_sentence(self) -> None:
        for text, words in (
            ("", "no line"), ("a.jpg,12", "Line 1: a name, a time and a size"),
            ("a,1,1\nb,noon,1", "Line 2: “noon” is no time"),
            ("a,999999999999,1", "is no time"), ("a,-999999999999,1", "is no time"),
            ("a,1,big", "“big” is no size"),
            ("a,1,0", "the size must be"), ("a,2026-13-01 00:00:00,1", "no day or time"),
            ("a,1,nan", "the size must be"),
        ):  # fmt: skip
            with self.subTest(text), self.assertRaisesRegex(BadPictureTable, words):
                read_pictures(text)
