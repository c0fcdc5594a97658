"""Writing a stretch of a film for further work: frames on their own, hardly compressed, as a movie or as pictures."""

import os
import shutil
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Literal, cast

import av
import numpy as np
from av.video.reformatter import Colorspace, VideoReformatter
from av.video.stream import VideoStream
from PIL import Image

from zembi.core.errors import BadInput, NoRoom
from zembi.media.render import Film, film_pictures

Form = Literal["prores", "dnxhr", "png"]


@dataclass(frozen=True)
class _Coding:
    codec: str
    pixels: str
    options: dict[str, str]


_MOVIES: dict[Form, _Coding] = {
    "prores": _Coding("prores_ks", "yuv422p10le", {"profile": "hq", "vendor": "apl0"}),
    "dnxhr": _Coding("dnxhd", "yuv422p", {"profile": "dnxhr_hq"}),
}


def write_mezzanine(
    film: Film, target: Path, form: Form, *, progress: Callable[[float, str], None] = lambda _s, _w: None
) -> None:
    """Write a film's pictures without sound: a .mov, or for "png" a folder of numbered pictures.

    It appears under its name only when it is complete.

    Raises:
        BadInput: it cannot be written.
        NoRoom: the disk filled up.
    """
    part = target.with_name(f".{target.stem}.writing-{os.getpid()}{target.suffix}")
    try:
        # Never the folders above: those of a project that was deleted meanwhile stay gone.
        target.parent.mkdir(exist_ok=True)
        if form == "png":
            part.mkdir()
            _pictures(film, part, target.name, progress)
            shutil.rmtree(target, ignore_errors=True)
        else:
            _movie(film, part, _MOVIES[form], progress)
        os.replace(part, target)
    except OSError as fault:
        if fault.errno == 28:
            raise NoRoom(
                f"The disk is full: {target.name} could not be finished. Make room and send it again."
            ) from fault
        raise BadInput(f"{target} cannot be written ({fault.strerror}).") from fault
    finally:
        with suppress(OSError):
            shutil.rmtree(part) if part.is_dir() else part.unlink()


def _movie(film: Film, part: Path, coding: _Coding, progress: Callable[[float, str], None]) -> None:
    with av.open(str(part), "w", format="mov") as out:
        video = cast(VideoStream, out.add_stream(coding.codec, rate=film.rate, options=coding.options))
        video.width, video.height, video.pix_fmt = film.width, film.height, coding.pixels
        video.time_base = 1 / film.rate
        context = video.codec_context
        context.color_primaries = context.color_trc = context.colorspace = 1
        scaler = VideoReformatter()
        for number, picture in enumerate(film_pictures(film)):
            frame = scaler.reformat(picture, format=coding.pixels)
            frame.pts, frame.time_base = number, 1 / film.rate
            out.mux(video.encode(frame))
            progress(number / (film.end - film.first), f"Writing frame {number}")
        out.mux(video.encode(None))


def _pictures(film: Film, folder: Path, name: str, progress: Callable[[float, str], None]) -> None:
    scaler = VideoReformatter()
    for number, picture in enumerate(film_pictures(film), 1):
        pixels = scaler.reformat(picture, format="rgb24", src_colorspace=Colorspace.ITU709).to_ndarray()
        Image.fromarray(np.asarray(pixels, np.uint8)).save(
            folder / f"{name}_{number:06d}.png", compress_level=3
        )
        progress(number / (film.end - film.first), f"Writing picture {number}")
