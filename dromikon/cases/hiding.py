"""A clip in which somebody is hidden: made anew picture by picture, so that nothing of them is left in it."""

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from PIL import Image

from dromikon.core.instants import Instant
from dromikon.core.scene.sight import Sides

#: What is hidden is left with so few fields across that nobody is recognised.
FIELDS = 6
#: Bits a second of what is made.
RATE = 2_500_000


def hide(source: Path, target: Path, start: Instant, where: Callable[[Instant], list[Sides]]) -> int:
    """Write a clip anew with parts hidden; how many pictures it has. Raises OSError, and av.error.FFmpegError for what is no video."""
    part, count = target.with_name(f".{target.name}.part"), 0
    try:
        with av.open(str(source)) as read, av.open(str(part), "w", format="webm") as made:
            video = read.streams.video[0]
            stream = made.add_stream(
                "libvpx", rate=Fraction(video.average_rate or 8), options={"deadline": "good", "cpu-used": "5"}
            )
            stream.width, stream.height, stream.pix_fmt, stream.bit_rate = video.width, video.height, "yuv420p", RATE
            for frame in read.decode(video):
                picture = frame.to_ndarray(format="rgb24")
                for box in where(start + round(float(frame.time or 0) * 1000)):
                    blot(picture, box)
                shown = av.VideoFrame.from_ndarray(picture, format="rgb24")
                shown.pts, shown.time_base = frame.pts, frame.time_base
                made.mux(stream.encode(shown))
                count += 1
            made.mux(stream.encode())
        part.replace(target)
    finally:
        part.unlink(missing_ok=True)
    return count


def blot(picture: "np.ndarray", box: Sides) -> None:
    """Leave a part of a picture (height, width, 3) with a few fields of its mean colours; in place."""
    height, width = picture.shape[:2]
    left, top = int(box[0] * width), int(box[1] * height)
    right, bottom = max(left + 1, round(box[2] * width)), max(top + 1, round(box[3] * height))
    part = Image.fromarray(picture[top:bottom, left:right])
    if 0 in part.size:
        return
    few = part.resize((FIELDS, FIELDS), Image.Resampling.BOX).resize(part.size, Image.Resampling.NEAREST)
    picture[top:bottom, left:right] = np.asarray(few)
