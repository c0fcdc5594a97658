"""Rendering plain cuts at 1080p, beside a bare transcode of one file, and of the same pieces by the media library alone.

Usage: python benchmarks/render.py [--seconds N]
"""

import argparse
import tempfile
import time
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from zembi.core.programme.model import Layer, Programme, Span, shown
from zembi.media.render import Film, render

SIZE = (1920, 1080)


def make_source(path: Path, seconds: int, seed: int) -> Path:
    rng = np.random.default_rng(seed)
    texture = rng.integers(0, 255, (1350, 1920 + 24 * seconds * 4), dtype=np.uint8)
    texture = (texture // 4 + np.linspace(40, 160, texture.shape[1])[None, :]).astype(np.uint8)
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=Fraction(24))
        video.width, video.height, video.pix_fmt = *SIZE, "yuv420p"
        video.codec_context.options = {"preset": "ultrafast", "crf": "20", "g": "48"}
        for n in range(24 * seconds):
            flat = np.full((1620, 1920), 128, np.uint8)
            flat[:1080] = texture[:1080, n * 4 : n * 4 + 1920]
            out.mux(video.encode(av.VideoFrame.from_ndarray(flat, "yuv420p")))
        out.mux(video.encode(None))
    return path


def plain(files: list[Path], frames: int, target: Path) -> None:
    """The yardstick: decode the files one after another, encode once."""
    with av.open(str(target), "w") as out:
        video = out.add_stream("libx264", rate=Fraction(24))
        video.width, video.height, video.pix_fmt = *SIZE, "yuv420p"
        video.codec_context.options = {"preset": "veryfast", "crf": "18"}
        count = 0
        for file in files:
            with av.open(str(file)) as container:
                container.streams.video[0].thread_type = "AUTO"
                for frame in container.decode(video=0):
                    if count >= frames:
                        break
                    frame.pts, frame.time_base, frame.pict_type = count, Fraction(1, 24), 0
                    out.mux(video.encode(frame))
                    count += 1
        out.mux(video.encode(None))


def same_pieces(files: dict[str, Path], spans: list[Span], target: Path) -> None:
    """The same film by the library alone: seek in each file, decode, and encode once."""
    with av.open(str(target), "w") as out:
        video = out.add_stream("libx264", rate=Fraction(24))
        video.width, video.height, video.pix_fmt = *SIZE, "yuv420p"
        video.codec_context.options = {"preset": "veryfast", "crf": "18"}
        opened = {name: av.open(str(file)) for name, file in files.items()}
        for container in opened.values():
            container.streams.video[0].thread_type = "AUTO"
        for span in spans:
            container = opened[span.media or ""]
            stream = container.streams.video[0]
            assert stream.time_base is not None
            begins = span.time.pieces[0].at_s
            container.seek(round(begins / stream.time_base), stream=stream)
            count = span.start
            for frame in container.decode(stream):
                if frame.time is None or frame.time < begins - 1e-4:
                    continue
                frame.pts, frame.time_base, frame.pict_type = count, Fraction(1, 24), 0
                out.mux(video.encode(frame))
                count += 1
                if count >= span.end:
                    break
        out.mux(video.encode(None))


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--seconds", type=int, default=12)
    parser.add_argument("--times", type=int, default=5)
    seconds = parser.parse_args().seconds
    with tempfile.TemporaryDirectory() as folder:
        files = {str(k): make_source(Path(folder) / f"{k}.mp4", seconds, k) for k in range(3)}
        frames = 24 * seconds
        # A cut every two seconds, each angle running on underneath as takes do.
        spans = [shown(a, min(frames, a + 48), str(a // 48 % 3), a / 24) for a in range(0, frames, 48)]
        ratios, beside = [], []
        for _ in range(parser.parse_args().times):
            first = time.perf_counter()
            same_pieces(files, spans, Path(folder) / "pieces.mp4")
            begin = time.perf_counter()
            plain([files["0"]], frames, Path(folder) / "plain.mp4")
            middle = time.perf_counter()
            render(
                Film(
                    Programme(frames, (Layer("Shots", tuple(spans)),)),
                    files,
                    None,
                    Fraction(24),
                    *SIZE,
                    0,
                    frames,
                ),
                Path(folder) / "film.mp4",
            )
            end = time.perf_counter()
            ratios.append((end - middle) / (middle - begin))
            beside.append((end - middle) / (begin - first))
            print(
                f"one file {middle - begin:6.2f} s   same pieces {begin - first:6.2f} s   render {end - middle:6.2f} s   "
                f"ratios {ratios[-1]:.2f} and {beside[-1]:.2f}   ({frames} frames)"
            )
        print(
            f"median ratio to one file {np.median(ratios):.2f}, to the same pieces {np.median(beside):.2f} (target 1.08)"
        )


if __name__ == "__main__":
    main()
