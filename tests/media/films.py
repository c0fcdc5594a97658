"""Small films made by the tests, every frame carrying its count."""

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.video.reformatter import VideoReformatter
from numpy.typing import NDArray

from zembi.demo.countmarks import draw_count, read_count


def film(
    path: Path, rate: Fraction = Fraction(24), frames: int = 48, *, size: tuple[int, int] = (320, 180), codec: str = "libx264",
    pixels: str = "yuv420p", pts: NDArray[np.int64] | None = None, turn: int = 0, sound: NDArray[np.float32] | None = None,
    sound_rate: int = 48_000, late_s: float = 0.0, gop: int = 12, timecode: str = "", start: int = 0,
) -> Path:  # fmt: skip
    """Write a film whose frame n shows the count n + ``start``.

    Args:
        path: The container follows from its ending.
        pts: Presentation times on a 90 kHz clock; even where absent.
        turn: Degrees counter-clockwise that players must turn the picture (display matrix).
        sound: Samples (n, channels), beginning ``late_s`` after the picture.
    """
    with av.open(
        str(path), "w", options={"video_track_timescale": "90000"} if path.suffix in (".mp4", ".mov") else {}
    ) as out:
        video = out.add_stream(codec, rate=rate)
        video.width, video.height, video.pix_fmt = *size, pixels
        video.time_base = video.codec_context.time_base = Fraction(1, 90_000)
        video.codec_context.gop_size = gop
        if codec == "libx264":
            video.codec_context.options = {"preset": "veryfast"}
        if turn:
            video.set_display_rotation(turn)
        if timecode:
            video.metadata["timecode"] = timecode
        audio = None
        if sound is not None:
            plain = path.suffix in (".mov", ".mkv")
            audio = out.add_stream(
                "pcm_s16le" if plain else "aac",
                rate=sound_rate,
                options={} if plain else {"aac_coder": "fast"},
            )
            audio.layout = "stereo" if sound.shape[1] == 2 else "mono"
        for n in range(frames):
            luma = np.full((size[1], size[0]), 60 + n % 100, np.uint8)
            if turn in (90, -90, 270):
                upright = np.full((size[0], size[1]), 60 + n % 100, np.uint8)
                draw_count(upright, n + start)
                luma = np.ascontiguousarray(np.rot90(upright, 1 if turn == -90 or turn == 270 else -1))
            else:
                draw_count(luma, n + start)
            flat = np.concatenate([luma, np.full((size[1] // 2, size[0]), 128, np.uint8)])
            frame = av.VideoFrame.from_ndarray(flat, "yuv420p")
            frame = frame.reformat(format=pixels) if pixels != "yuv420p" else frame
            frame.pts = int(pts[n]) if pts is not None else round(n * 90_000 / rate)
            frame.time_base = Fraction(1, 90_000)
            out.mux(video.encode(frame))
        out.mux(video.encode(None))
        if audio is not None and sound is not None:
            whole = (np.clip(sound, -1, 1) * 32767).astype(np.int16)
            for at in range(0, len(whole), 1024):
                block = np.ascontiguousarray(whole[at : at + 1024].reshape(1, -1))
                piece = av.AudioFrame.from_ndarray(block, "s16", audio.layout)
                piece.rate, piece.time_base, piece.pts = (
                    sound_rate,
                    Fraction(1, sound_rate),
                    at + round(late_s * sound_rate),
                )
                out.mux(audio.encode(piece))
            out.mux(audio.encode(None))
    return path


def counts(path: Path) -> list[int | None]:
    """The count that each frame of a film shows."""
    with av.open(str(path)) as container:
        out, scaler = [], VideoReformatter()
        for frame in container.decode(video=0):
            luma = scaler.reformat(frame, format="gray").to_ndarray()
            out.append(read_count(luma[: frame.height, : frame.width]))
        return out


def tone(
    seconds: float, rate: int = 48_000, *, channels: int = 1, click_s: float | None = None, seed: int = 0
) -> NDArray[np.float32]:
    """Soft noise, with one loud click where asked for; shape (samples, channels)."""
    rng = np.random.default_rng(seed)
    out = 0.02 * rng.standard_normal((round(seconds * rate), channels))
    if click_s is not None:
        out[round(click_s * rate)] = 0.9
    return out.astype(np.float32)
