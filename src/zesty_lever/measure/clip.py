"""A clip or a picture: its frames upright, at their exact times, in any order.

Frames are found by their own time stamps, never by number over rate. One pass over the packets makes the
index; what a group of frames costs to decode is paid once and kept.
"""

from __future__ import annotations

import hashlib
import threading
from collections import OrderedDict
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from zesty_lever.physics.vectors import Array
from zesty_lever.problems import CaseError, one_line

if TYPE_CHECKING:
    import av

Luma = NDArray[np.uint8]
LONGEST_S, MOST_FRAMES, MOST_PIXELS = 600.0, 36_000, 40_000_000
# Decoded frames are kept up to so many bytes.
KEPT_BYTES = 400_000_000
# Formats whose first plane is 8-bit luma as it is.
PLAIN = ("yuv420p", "yuvj420p", "yuv422p", "yuvj422p", "yuv444p", "yuvj444p", "nv12", "gray")
# A text file is no picture, though it can be painted as one.
TEXT_ART = ("tty", "bin", "xbin", "adf", "idf")
HEIF = (".heic", ".heif")


def _hours(seconds: float) -> str:
    hours, minutes = divmod(round(seconds / 60.0), 60)
    return f"{hours} h {minutes} min" if hours else f"{minutes} min"


class Clip:
    """An opened clip or picture; may be asked from several threads, one at a time.

    ``times_s`` ``(frames,)`` start at 0; ``width`` and ``height`` are of the upright picture. Raises
    `CaseError` for what is no clip, has no picture, or is longer than `LONGEST_S`; `OSError` for what can't
    be read.
    """

    def __init__(self, path: Path) -> None:
        self.path = Path(path)
        self._lock = threading.RLock()
        self._kept: OrderedDict[int, Any] = OrderedDict()
        self._next: tuple[int, Any] | None = None
        with self.path.open("rb") as file:
            file.read(1)
        self._container: Any = None if self.path.suffix.lower() in HEIF else self._opened()
        if self._container is None:
            self._stamps, self._keys = [0], [0]
            self._still: Luma | None = _read_heif(self.path)
            self.times_s: Array = np.zeros(1)
        else:
            self._still = None
            self._index()
        first = self.picture(0)
        self.height, self.width = first.shape[:2]

    def _opened(self) -> Any:
        import av

        try:
            container = av.open(str(self.path), metadata_errors="replace")
        except (av.FFmpegError, ValueError) as error:
            raise self._not_a_clip() from error
        if container.format.name in TEXT_ART:
            raise self._not_a_clip()
        if not container.streams.video:
            raise CaseError(
                "no-picture",
                f"{self._name} has no picture, only sound; a clip or a photo is needed",
                key="clip",
            )
        length_s = (container.duration or 0) / 1e6
        if length_s > LONGEST_S:
            raise self._too_long(f"lasts {_hours(length_s)}", length_s, "s", LONGEST_S)
        self._stream: Any = container.streams.video[0]
        self._stream.thread_type = "AUTO"
        context = self._stream.codec_context
        if context.width * context.height > MOST_PIXELS:
            raise self._too_long(
                f"has {context.width} x {context.height} pixels",
                context.width * context.height,
                "pixels",
                MOST_PIXELS,
            )
        return container

    @property
    def _name(self) -> str:
        return one_line(self.path.name, 80)

    def _not_a_clip(self) -> CaseError:
        return CaseError(
            "not-a-clip",
            f"{self._name} can't be read as a clip or a picture: another kind of file, or cut off",
            key="clip",
        )

    def _too_long(self, what: str, value: float, unit: str, most: float) -> CaseError:
        return CaseError(
            "clip-too-long",
            f"{self._name} {what}; at most {most:g} {unit} can be measured: cut it to the set",
            key="clip",
            value=value,
            unit=unit,
            allowed=[0, most],
        )

    def _index(self) -> None:
        """One pass over the packets: every frame's stamp, and where decoding can begin."""
        import av

        stamps, keys = [], []
        try:
            for packet in self._container.demux(self._stream):
                if packet.pts is None or packet.size == 0:
                    continue
                if not getattr(packet, "is_discard", False):
                    stamps.append(packet.pts)
                if packet.is_keyframe:
                    keys.append(packet.pts)
                if len(stamps) > MOST_FRAMES:
                    raise self._too_long(
                        f"has more than {MOST_FRAMES} frames", len(stamps), "frames", MOST_FRAMES
                    )
        except av.FFmpegError:
            pass  # what can be read up to a damaged place is measured
        self._stamps = sorted(set(stamps)) or [0]
        self._keys = sorted(set(keys)) or [self._stamps[0]]
        base = float(self._stream.time_base or 1.0)
        self.times_s = (np.array(self._stamps, dtype=float) - self._stamps[0]) * base
        if self.times_s[-1] > LONGEST_S:
            raise self._too_long(
                f"lasts {_hours(self.times_s[-1])}", float(self.times_s[-1]), "s", LONGEST_S
            )
        # A container of one picture may tell no stamp: it is decoded once and kept.
        first = next(self._decoded_from(0), None)
        if first is None:
            raise CaseError(
                "no-picture", f"{self._name} holds no frame that can be read", key="clip"
            )
        self._keep(*first)

    # --- frames ------------------------------------------------------------------------------

    @property
    def frames(self) -> int:
        """How many frames there are; 1 for a picture."""
        return len(self._stamps)

    @property
    def is_still(self) -> bool:
        """Whether it is a picture, not a clip."""
        return self.frames == 1

    def luma(self, index: int) -> Luma:
        """Brightness of one frame, upright, ``(height, width)``."""
        if self._still is not None:
            return np.asarray(self._still @ np.array([0.299, 0.587, 0.114]), dtype=np.uint8)
        frame = self._frame(index)
        plane = (
            frame.planes[0]
            if frame.format.name in PLAIN
            else frame.reformat(format="gray").planes[0]
        )
        rows = np.frombuffer(memoryview(plane), np.uint8).reshape(-1, plane.line_size)
        upright: Luma = np.rot90(rows[: frame.height, : frame.width], frame.rotation // 90)
        return upright

    def picture(self, index: int) -> Luma:
        """One frame in colour, upright, ``(height, width, 3)``, contiguous."""
        if self._still is not None:
            return self._still
        frame = self._frame(index)
        colours: Luma = np.rot90(frame.to_ndarray(format="rgb24"), frame.rotation // 90)
        return np.ascontiguousarray(colours)

    def nearest(self, time_s: float) -> int:
        """The frame shown at a time."""
        return int(
            np.clip(
                np.searchsorted(self.times_s, time_s + 1e-9, side="right") - 1, 0, self.frames - 1
            )
        )

    def group_start(self, index: int) -> int:
        """The frame from which decoding has to begin for another."""
        key = self._keys[
            max(int(np.searchsorted(self._keys, self._stamps[index], side="right")) - 1, 0)
        ]
        return min(int(np.searchsorted(self._stamps, key)), index)

    def sha256(self) -> str:
        """Hash of the file."""
        with self.path.open("rb") as file:
            return hashlib.file_digest(file, "sha256").hexdigest()

    def close(self) -> None:
        """Let go of the file and of what is kept."""
        with self._lock:
            self._kept.clear()
            self._next = None
            if self._container is not None:
                self._container.close()

    def _keep(self, index: int, frame: Any) -> None:
        self._kept[index] = frame
        self._kept.move_to_end(index)
        size = frame.width * frame.height * 3 // 2
        while len(self._kept) > 4 and len(self._kept) * size > KEPT_BYTES:
            self._kept.popitem(last=False)

    def _frame(self, index: int) -> av.VideoFrame:
        if not 0 <= index < self.frames:
            raise CaseError(
                "out-of-range",
                f"frame {index} is asked for; {self._name} has frames 0 to {self.frames - 1}",
                key="frame",
                value=index,
                allowed=[0, self.frames - 1],
            )
        with self._lock:
            if index not in self._kept:
                self._decode(index)
            frame: av.VideoFrame = self._kept[index]
            self._kept.move_to_end(index)
            return frame

    def _decode(self, index: int) -> None:
        """Decode up to a frame, going on from the last one where that is near."""
        import av

        going = self._next
        if going is None or not going[0] <= index <= going[0] + 30:
            going = None
        back = 0
        while True:
            source = going[1] if going is not None else self._decoded_from(index, back)
            found = -1
            try:
                for found, frame in source:
                    self._keep(found, frame)
                    if found >= index:
                        break
            except av.FFmpegError as error:
                raise self._broken(index) from error
            if found == index:
                self._next = (index + 1, source)
                return
            self._next = None
            if index in self._kept:
                return
            if going is not None:
                going = None
            elif found > index and back < 2:
                # Frames before an open group's key frame need the group before it.
                back += 1
            else:
                raise self._broken(index)

    def _broken(self, index: int) -> CaseError:
        return CaseError(
            "not-a-clip",
            f"{self._name} is damaged at {self.times_s[index]:.2f} s: this frame can't be shown",
            key="clip",
            value=index,
        )

    def _decoded_from(self, index: int, back: int = 0) -> Any:
        """Frames with their numbers, from the key frame at or before one (or so many key frames earlier)."""
        if self.frames == 1:
            # A picture can't be sought in.
            self._container.close()
            self._container = self._opened()
        else:
            at = int(np.searchsorted(self._keys, self._stamps[index], side="right")) - 1 - back
            stamp = self._keys[at] if at >= 0 else self._stamps[0]
            self._container.seek(stamp, stream=self._stream, backward=True)
        for frame in self._container.decode(self._stream):
            if self.frames == 1:
                yield 0, frame
                return
            number = int(np.searchsorted(self._stamps, frame.pts)) if frame.pts is not None else -1
            if 0 <= number < self.frames and self._stamps[number] == frame.pts:
                yield number, frame


def _read_heif(path: Path) -> Luma:
    """A HEIF picture by the optional package."""
    try:
        from pillow_heif import open_heif
    except ImportError:
        raise CaseError(
            "needs-extra",
            f"{one_line(path.name, 80)} is a HEIC picture; install the optional part 'heic' of Zesty Lever, or save it as JPEG",
            key="clip",
        ) from None
    try:
        picture = np.asarray(open_heif(path, convert_hdr_to_8bit=True))
    except (ValueError, OSError) as error:
        raise CaseError(
            "not-a-clip", f"{one_line(path.name, 80)} can't be read as a picture", key="clip"
        ) from error
    shown: Luma = np.ascontiguousarray(picture[..., :3], dtype=np.uint8)
    return shown
