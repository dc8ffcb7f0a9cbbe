"""Clips and pictures: exact times, upright, any order, and one clear line for what is none."""

import io
from dataclasses import replace
from fractions import Fraction

import av
import numpy as np
import pytest
from film import Camera, Film, some_take
from PySide6.QtGui import QImage

from zesty_lever.measure.clip import Clip
from zesty_lever.problems import CaseError

SMALL = Camera(width=320, height=192, focal_px=330.0, height_m=0.9)


def small_film(**more):
    """A take of two dozen small frames."""
    take = replace(some_take(5), camera=SMALL, blur_steps=1, shake_px=0.3, **more)
    take.__dict__["times_s"] = take.times_s[:40:2] if more.get("uneven") else take.times_s[:24]
    return Film(take)


def saved(film, path, rotate=0):
    film.write(path, rotate=rotate)
    return path


@pytest.mark.parametrize("codec", ["libx264", "libx265"])
def test_uneven_times_are_exact_and_any_frame_is_the_same_in_any_order(tmp_path, codec):
    """Frames by their own stamps, to a millionth of a second; 30 random frames equal those read in order."""
    film = small_film(uneven=True, codec=codec)
    path = saved(film, tmp_path / "a.mp4")
    clip = Clip(path)
    assert clip.frames == len(film.take.times_s)
    wanted = film.take.times_s - film.take.times_s[0]
    assert np.abs(clip.times_s - wanted).max() < 2e-5
    assert np.ptp(np.diff(clip.times_s)) > 0.02
    inorder = [clip.luma(i).copy() for i in range(clip.frames)]
    other = Clip(path)
    for at in np.random.default_rng(0).integers(0, clip.frames, 30):
        assert (other.luma(int(at)) == inorder[at]).all()
    assert clip.nearest(float(clip.times_s[7]) + 1e-4) == 7


@pytest.mark.parametrize("rotate", [0, 90, 180, 270])
def test_a_turned_clip_stands_upright(tmp_path, rotate):
    """Whatever way a telephone was held: the picture is that of the film, to compression."""
    film = small_film()
    clip = Clip(saved(film, tmp_path / "r.mp4", rotate))
    truth = Film(film.take).frame(0).astype(float)
    assert (clip.width, clip.height) == (320, 192)
    assert np.abs(clip.luma(0) - truth).mean() < 6.0
    assert clip.picture(0).shape == (192, 320, 3)


def test_a_photo_is_turned_by_its_exif(tmp_path):
    """A JPEG whose EXIF says 'turn by 90 degrees' (orientation 6) is read upright; so is a PNG without."""
    truth = small_film().frame(0)
    lying = np.ascontiguousarray(np.rot90(truth, 1))
    image = QImage(
        lying.data, lying.shape[1], lying.shape[0], lying.shape[1], QImage.Format.Format_Grayscale8
    )
    image.save(str(tmp_path / "p.png"))
    image.save(str(tmp_path / "p.jpg"), "JPG", 95)
    data = (tmp_path / "p.jpg").read_bytes()
    tag = b"Exif\0\0MM\0*\0\0\0\x08\0\x01\x01\x12\0\x03\0\0\0\x01\0\x06\0\0\0\0\0\0"
    (tmp_path / "p.jpg").write_bytes(
        data[:2] + b"\xff\xe1" + (len(tag) + 2).to_bytes(2, "big") + tag + data[2:]
    )
    photo, plain = Clip(tmp_path / "p.jpg"), Clip(tmp_path / "p.png")
    assert photo.is_still
    assert (photo.width, photo.height) == (320, 192)
    assert np.abs(photo.luma(0).astype(float) - truth).mean() < 4.0
    assert (plain.width, plain.height) == (192, 320)


def silent(path):
    with av.open(str(path), "w") as out:
        stream = out.add_stream("aac", rate=44100)
        frame = av.AudioFrame.from_ndarray(
            np.zeros((1, 1024), np.float32), format="fltp", layout="mono"
        )
        frame.rate, frame.pts = 44100, 0
        out.mux(stream.encode(frame))
        out.mux(stream.encode(None))


def four_hours(path):
    """Three frames, the last four hours after the first."""
    with av.open(str(path), "w") as out:
        stream = out.add_stream("libx264", rate=30)
        stream.width, stream.height, stream.pix_fmt = 64, 64, "yuv420p"
        stream.time_base = stream.codec_context.time_base = Fraction(1, 1000)
        for stamp in (0, 40, 14_400_000):
            frame = av.VideoFrame.from_ndarray(np.zeros((96, 64), np.uint8), format="yuv420p")
            frame.pts, frame.time_base = stamp, Fraction(1, 1000)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))


@pytest.mark.parametrize(
    ("make", "code", "words"),
    [
        (lambda p: p.write_bytes(b""), "not-a-clip", "can't be read"),
        (lambda p: p.write_text("no clip at all\n" * 200), "not-a-clip", "can't be read"),
        (silent, "no-picture", "only sound"),
        (four_hours, "clip-too-long", "4 h 0 min"),
    ],
)
def test_what_is_no_clip_is_refused_in_one_line(tmp_path, make, code, words):
    """Empty, text, sound only, four hours: the file's name and the reason."""
    path = tmp_path / "bad.mp4"
    make(path)
    with pytest.raises(CaseError) as caught:
        Clip(path)
    assert caught.value.code == code
    assert words in caught.value.text
    assert "bad.mp4" in caught.value.text
    assert "\n" not in caught.value.text


def test_a_clip_cut_off_is_refused_or_read_as_far_as_it_goes(tmp_path):
    """Without its index a file is no clip; with the index first, what is there is measured and the rest is said."""
    path = saved(small_film(), tmp_path / "a.mp4")
    whole = path.read_bytes()
    (tmp_path / "cut.mp4").write_bytes(whole[: len(whole) // 2])
    with pytest.raises(CaseError, match="cut off"):
        Clip(tmp_path / "cut.mp4")
    source = av.open(str(path))
    buffer = io.BytesIO()
    with av.open(buffer, "w", format="matroska") as out:
        copy = out.add_stream_from_template(source.streams.video[0])
        for packet in source.demux(video=0):
            if packet.dts is not None:
                packet.stream = copy
                out.mux(packet)
    source.close()
    (tmp_path / "cut.mkv").write_bytes(buffer.getvalue()[: int(len(buffer.getvalue()) * 0.7)])
    clip = Clip(tmp_path / "cut.mkv")
    assert 1 < clip.frames < 24
    assert clip.luma(0).shape == (192, 320)


def test_a_frame_that_is_not_there_is_named(tmp_path):
    """The number asked for and those there are."""
    clip = Clip(saved(small_film(), tmp_path / "a.mp4"))
    with pytest.raises(CaseError, match=r"frame 24 is asked for; a\.mp4 has frames 0 to 23"):
        clip.luma(24)


def test_a_heic_picture_without_its_package_names_the_part(tmp_path, monkeypatch):
    """What is missing is an optional part, and its name is said."""
    import sys

    monkeypatch.setitem(sys.modules, "pillow_heif", None)
    (tmp_path / "p.heic").write_bytes(b"ftypheic")
    with pytest.raises(CaseError, match="optional part 'heic'"):
        Clip(tmp_path / "p.heic")
