"""Sound before picture: ten takes of four minutes in 3840x2160, until all are lined up, beside decoding their sound;
and one take's proxies beside decoding its picture once.

Usage: python benchmarks/prepare.py [--takes N] [--minutes M]
"""

import argparse
import tempfile
import time
from dataclasses import replace
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from zembi.demo.camera import Room, record
from zembi.demo.song import PLAN
from zembi.demo.synth import play
from zembi.jobs.runner import JobRunner
from zembi.media.derive import derive_picture, write_flac
from zembi.service.application.studio import Studio
from zembi.service.application.work import BACKGROUND, ORDER, works
from zembi.service.media.library import add_files
from zembi.service.project.workspace import Workspace
from zembi.store.entities import Lineup, Media, Version

SIZE, RATE = (3840, 2160), Fraction(24)
_PIECE = 96


def four_seconds(path: Path) -> Path:
    """Four seconds of 4K H.264 as a camera writes it: noise that moves, half a second between key frames."""
    rng = np.random.default_rng(1)
    texture = rng.integers(40, 200, (SIZE[1], SIZE[0] + 8 * _PIECE), dtype=np.uint8)
    with av.open(str(path), "w") as out:
        video = out.add_stream("libx264", rate=RATE)
        video.width, video.height, video.pix_fmt = *SIZE, "yuv420p"
        video.codec_context.options = {"preset": "ultrafast", "crf": "46", "g": "12", "bf": "0"}
        flat = np.full((SIZE[1] * 3 // 2, SIZE[0]), 128, np.uint8)
        for n in range(_PIECE):
            flat[: SIZE[1]] = texture[:, 8 * n : 8 * n + SIZE[0]]
            out.mux(video.encode(av.VideoFrame.from_ndarray(flat, "yuv420p")))
        out.mux(video.encode(None))
    return path


def write_take(path: Path, piece: Path, sound: np.ndarray, rate: int) -> None:
    """The same four seconds of picture again and again, with this sound."""
    with av.open(str(piece)) as source, av.open(str(path), "w") as out:
        shown = source.streams.video[0]
        video = out.add_stream_from_template(shown)
        audio = out.add_stream("aac", rate=rate)
        audio.layout = "mono"
        assert shown.time_base is not None
        length = round(_PIECE / RATE / shown.time_base)
        for turn in range(int(len(sound) / rate / float(_PIECE / RATE))):
            source.seek(0)
            for packet in source.demux(shown):
                if packet.pts is None or packet.dts is None:
                    continue
                packet.pts, packet.dts, packet.stream = (
                    packet.pts + turn * length,
                    packet.dts + turn * length,
                    video,
                )
                out.mux(packet)
            first, last = (int(k * float(_PIECE / RATE) * rate) // 1024 * 1024 for k in (turn, turn + 1))
            for at in range(first, last, 1024):
                frame = av.AudioFrame.from_ndarray(
                    np.ascontiguousarray(sound[None, at : at + 1024], np.float32), "fltp", "mono"
                )
                frame.rate, frame.pts = rate, at
                out.mux(audio.encode(frame))
        out.mux(audio.encode(None))


def decode(path: Path, kind: str) -> float:
    """Seconds to decode one stream of a file and do nothing with it."""
    begin = time.perf_counter()
    with av.open(str(path)) as container:
        stream = container.streams.video[0] if kind == "video" else container.streams.audio[0]
        stream.thread_type = "AUTO"
        for _ in container.decode(stream):
            pass
    return time.perf_counter() - begin


def main() -> None:
    parser = argparse.ArgumentParser(description=__doc__)
    parser.add_argument("--takes", type=int, default=10)
    parser.add_argument("--minutes", type=float, default=4.0)
    options = parser.parse_args()
    with tempfile.TemporaryDirectory() as folder:
        card = Path(folder) / "card"
        card.mkdir()
        # Two songs in one: a song that repeats itself whole would have every take fit twice.
        other = tuple(replace(p, seed=p.seed + 50, chords=("Dm", "Em", "F", "C")) for p in PLAN.parts)
        parts = [play(PLAN), play(replace(PLAN, parts=other))]
        rate = parts[0].sample_rate
        song = np.concatenate([p.audio.mean(axis=1) for p in parts])[: int(options.minutes * 60 * rate)]
        write_flac(card / "song.flac", np.stack([song, song], axis=1), rate)
        piece = four_seconds(Path(folder) / "piece.mp4")
        takes = [card / f"C{n:04d}.mp4" for n in range(options.takes)]
        for n, path in enumerate(takes):
            write_take(path, piece, record(song, rate, Room(0.3, -18.0), n), rate)
        print(
            f"{options.takes} takes of {options.minutes:g} minutes, {takes[0].stat().st_size / 1e6:.0f} MB each"
        )
        sound = sum(decode(p, "audio") for p in takes)
        workspace = Workspace(Path(folder) / "data", [card])
        project = workspace.create("Bench", "24", *SIZE)
        runner = JobRunner(works(workspace), order=ORDER, background=BACKGROUND)
        studio = Studio(workspace, runner)
        studio.start()
        add_files(workspace, project, runner, [str(card / "song.flac")], "song")
        while not project.database.all(Version):
            time.sleep(0.1)
        begin = time.perf_counter()
        add_files(workspace, project, runner, [str(p) for p in takes], "take")
        first = 0.0
        while (done := len(project.database.all(Lineup))) < len(takes):
            first = first or (time.perf_counter() - begin if done else 0.0)
            wrong = [m.error for m in project.database.all(Media, state="failed")]
            if wrong:
                raise SystemExit(wrong[0])
            time.sleep(0.1)
        took = time.perf_counter() - begin
        locked = sum(r.status == "locked" for r in project.database.all(Lineup))
        runner.stop()
        studio.stop()
        print(f"all lined up     {took:7.1f} s, first after {first:5.1f} s, {locked} of {len(takes)} locked")
        print(f"decoding sound   {sound:7.1f} s       ratio {took / sound:5.2f} (target 4)")
        once = decode(takes[0], "video")
        begin = time.perf_counter()
        derive_picture(takes[0], Path(folder) / "cache", "c", lambda _s, _w: None)
        proxies = time.perf_counter() - begin
        print(f"proxies of one   {proxies:7.1f} s")
        print(f"decoding picture {once:7.1f} s       ratio {proxies / once:5.2f} (target 1.3)")


if __name__ == "__main__":
    main()
