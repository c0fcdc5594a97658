"""Derived files of footage, made in one decoding pass: two proxies, stills, peaks and the sync sound.

A proxy is raw H.264 of key frames only, one proxy frame for each source frame, with an index of every frame's
offset, size and presentation time, so that the page can fetch and decode exactly the frame it needs.
"""

import json
import math
import os
import shutil
import wave
from collections import deque
from collections.abc import Callable, Mapping
from concurrent.futures import Future, ThreadPoolExecutor
from contextlib import ExitStack
from dataclasses import asdict, dataclass, field
from fractions import Fraction
from pathlib import Path
from typing import Any, BinaryIO, Self

import av
import numpy as np
from av.video.reformatter import VideoReformatter
from numpy.typing import NDArray
from PIL import Image

from zembi.core.footage.files import Facts
from zembi.core.sync.features import RATE as SYNC_RATE
from zembi.core.sync.moments import Moment, find_moments
from zembi.media.alpha import has_alpha, stacked
from zembi.media.leftovers import clear_dead
from zembi.media.opening import alpha_decoder, opened
from zembi.media.picture import Upright
from zembi.media.probe import FrameTimes, frame_times
from zembi.media.sound import StreamResampler, read_sound, resample
from zembi.media.spool import Spool, WaveWriter

#: Raise when the files made change, so that they are made again.
VERSION = 2
#: What is written last of a file's sound, its first stills, and all of it, so that each is there or is not.
SOUND, STILLS, ALL = "sound.json", "stills.json", "done.json"
STILLS_SHEET = "stills.jpg"
SOUND_RATE = 16_000
PEAKS_HZ = 400
STILL_EVERY_S = 0.5
STILL_SIZE, STILL_COLUMNS = (160, 90), 10
#: Shortest side of a proxy.
LEAST_SIDE = 16
#: How much of a song's preparing is done once its waveform can be drawn.
DRAWN = 0.5
#: Threads that decode, and pictures that wait to be written, at most.
_MOST_DECODERS, _BEHIND = 8, 8
PROXY_SIZES = {"programme": (480, 270), "wall": (320, 180)}

Progress = Callable[[float, str], None]


def derived_name(content: str) -> str:
    """Name of everything made from a content by this version; another content or version has another."""
    return f"{content}-{VERSION}"


def derived_folder(cache: Path, content: str) -> Path:
    """Folder of everything derived from a content."""
    return cache / derived_name(content)


def is_derived(cache: Path, content: str) -> bool:
    """True if all of it has been made."""
    return (derived_folder(cache, content) / ALL).exists()


def is_heard(cache: Path, content: str) -> bool:
    """True if a file's sound has been read: enough to be lined up."""
    folder = derived_folder(cache, content)
    return (folder / SOUND).exists() or (folder / ALL).exists()


def facts_of(folder: Path) -> dict[str, Any]:
    """Facts noted while a file's sound, stills and proxies were made, as far as they are."""
    facts: dict[str, Any] = {}
    for name in (SOUND, STILLS, ALL):
        if (folder / name).exists():
            facts |= json.loads((folder / name).read_text())
    return facts


def derived_bytes(facts: Facts, *, sound_only: bool) -> int:
    """About how much is made from a file, on the safe side."""
    seconds = 0.0 if facts.still else facts.duration_s
    sound = seconds * 2 * (SOUND_RATE + SYNC_RATE)
    if sound_only:
        return int(sound + seconds * 4 * (facts.sample_rate or 48_000))
    # Proxies take up to 30 kB a frame together where the picture is busy; the sound is spooled beside.
    return int(sound + seconds * 2 * SOUND_RATE * (facts.channels or 2) + 30_000 * facts.frames)


def proxy_size(width: int, height: int, box: tuple[int, int]) -> tuple[int, int]:
    """The even size of the same shape with as many pixels as a box: upright pictures are as sharp as wide ones.

    Very narrow shapes are at most twice as long as the box, and get bars, since codecs want a least side.
    """
    scale = min(math.sqrt(box[0] * box[1] / (width * height)), 2 * max(box) / max(width, height))
    return max(LEAST_SIDE, round(width * scale / 2) * 2), max(LEAST_SIDE, round(height * scale / 2) * 2)


@dataclass
class ProxyWriter:
    """One proxy being written: an encoder that answers each frame with one packet.

    With ``alpha`` each frame is twice as high: the picture over black, and under it its alpha as grey.
    """

    file: BinaryIO
    width: int
    height: int
    rate: Fraction
    alpha: bool = False
    offsets: list[int] = field(default_factory=list)
    sizes: list[int] = field(default_factory=list)

    def __post_init__(self) -> None:
        self._codec = av.CodecContext.create("libx264", "w")
        self._coded = self.width, self.height * (2 if self.alpha else 1)
        self._codec.width, self._codec.height = self._coded
        self._codec.pix_fmt = "yuv420p"
        self._codec.time_base = Fraction(1, 1000)
        self._codec.framerate = self.rate
        self._codec.thread_count = 1
        # Flat areas and colour are coded finer than the encoder would: a grade that brings up flat footage brings up what
        # the coding took from it. Half the error of colour for a third more bytes.
        self._codec.options = {
            "preset": "ultrafast", "tune": "zerolatency", "crf": "23", "profile": "baseline",
            "x264-params": "keyint=1:scenecut=0:repeat-headers=1:annexb=1:sliced-threads=0:aq-mode=1:chroma-qp-offset=-6",
        }  # fmt: skip
        self._scaler = VideoReformatter()
        self._count = 0
        self._at = 0

    def scaled(self, picture: av.VideoFrame) -> av.VideoFrame:
        """A picture in the proxy's size."""
        return self._scaler.reformat(picture, *self._coded, interpolation="AREA")

    def add(self, frame: av.VideoFrame) -> None:
        """Append one picture of the proxy's size."""
        frame.pts, frame.time_base = self._count * 20, Fraction(1, 1000)
        self._count += 1
        for packet in self._codec.encode(frame):
            self._take(packet)

    def _take(self, packet: Any) -> None:
        data = bytes(packet)
        self.file.write(data)
        self.offsets.append(self._at)
        self.sizes.append(len(data))
        self._at += len(data)

    def finish(self) -> None:
        """Write what the encoder still holds."""
        for packet in self._codec.encode(None):
            self._take(packet)
        self.file.flush()


def codec_string(access_unit: bytes) -> str:
    """The codec name that a browser wants, from the stream's own parameter set."""
    at = access_unit.find(b"\x00\x00\x01\x67")
    if at < 0:
        raise ValueError("no sequence parameter set")
    return "avc1." + access_unit[at + 4 : at + 7].hex()


class StillSheet:
    """Small stills, one every :data:`STILL_EVERY_S`, kept on one sheet of :data:`STILL_COLUMNS` columns."""

    def __init__(self) -> None:
        self._images: list[Image.Image] = []
        self._next = 0.0

    def offer(self, frame: av.VideoFrame, at_s: float) -> None:
        """Keep the frame if the next still is due."""
        if at_s >= self._next - 1e-6:
            image: Image.Image = frame.to_image()  # type: ignore[no-untyped-call]
            image.thumbnail(STILL_SIZE)
            tile = Image.new("RGB", STILL_SIZE, (138, 139, 140))
            tile.paste(image, ((STILL_SIZE[0] - image.width) // 2, (STILL_SIZE[1] - image.height) // 2))
            while self._next <= at_s + 1e-6:
                self._images.append(tile)
                self._next += STILL_EVERY_S

    def save(self, path: Path) -> int:
        """Write the sheet; returns the number of stills."""
        count = min(len(self._images), 6000)
        width, height = STILL_SIZE
        columns = STILL_COLUMNS
        sheet = Image.new("RGB", (width * min(columns, max(1, count)), height * max(1, -(-count // columns))))
        for i, image in enumerate(self._images[:count]):
            sheet.paste(image, (i % columns * width, i // columns * height))
        sheet.save(path, quality=70)
        return count


class LightMeter:
    """Mean luma and motion of each frame, for finding a clap or a flash."""

    def __init__(self) -> None:
        self._before: NDArray[np.float32] | None = None
        self._rows: list[tuple[float, float, float]] = []

    def see(self, picture: av.VideoFrame, at_s: float) -> None:
        """Take in a frame of 8-bit 4:2:0."""
        plane = picture.planes[0]
        luma = np.frombuffer(memoryview(plane), np.uint8).reshape(picture.height, plane.line_size)
        high, wide = picture.height // 10, picture.width // 10
        blocks = luma[: high * 10, : wide * 10].reshape(high, 10, wide, 10)
        small = blocks.mean(axis=(1, 3), dtype=np.float32) / np.float32(255)
        level = float(small.mean())
        even = small - np.float32(level)
        motion = 0.0 if self._before is None else float(np.abs(even - self._before).mean())
        self._before = even
        self._rows.append((at_s, level, motion))

    def moments(self) -> list[Moment]:
        """Moments that stand out."""
        table = np.array(self._rows, float).reshape(-1, 3)
        return find_moments(table[:, 0], table[:, 1], table[:, 2])


def peaks_of(mono: NDArray[np.float32], rate: int) -> tuple[NDArray[np.int16], float]:
    """Least, greatest and RMS value of short blocks, full scale 32767.

    Returns:
        Shape (blocks, 3), and blocks a second.
    """
    hop = max(1, rate // PEAKS_HZ)
    tables = [np.zeros((0, 3), "<i2")]
    for start in range(0, len(mono), 4096 * hop):
        piece = mono[start : start + 4096 * hop]
        count = -(-len(piece) // hop)
        blocks = np.pad(piece, (0, count * hop - len(piece))).reshape(count, hop)
        rms = np.sqrt((blocks**2).mean(axis=1))
        table = np.stack([blocks.min(axis=1), blocks.max(axis=1), rms], axis=1)
        tables.append(np.clip(table * 32767, -32767, 32767).astype("<i2"))
    return np.concatenate(tables), rate / hop


def write_wave(path: Path, mono: NDArray[np.float32], rate: int) -> None:
    """Write 16-bit mono WAV."""
    with wave.open(str(path), "wb") as out:
        out.setnchannels(1)
        out.setsampwidth(2)
        out.setframerate(rate)
        out.writeframes((np.clip(mono, -1, 1) * 32767).astype("<i2").tobytes())


def read_wave(path: Path, *, start: int = 0, count: int | None = None) -> tuple[NDArray[np.float32], int]:
    """Read (part of) what :func:`write_wave` wrote; samples and rate."""
    with wave.open(str(path), "rb") as source:
        total = source.getnframes()
        start = min(max(0, start), total)
        source.setpos(start)
        data = source.readframes(total - start if count is None else max(0, min(count, total - start)))
        samples = np.frombuffer(data, "<i2").astype(np.float32) / np.float32(32767)
        return samples, source.getframerate()


class _Workshop:
    """A folder in which a part of what is derived is made; it joins the rest only when it is complete.

    What was not finished by the end of its block goes.
    """

    def __init__(self, final: Path, part: str) -> None:
        self.final = final
        self.folder = final.with_name(f"{final.name}.making-{part}-{os.getpid()}")
        clear_dead(final.parent, f"{final.name}.making-{part}-")
        shutil.rmtree(self.folder, ignore_errors=True)
        # Never the folders above: those of a project that was deleted meanwhile stay gone.
        final.parent.mkdir(exist_ok=True)
        self.folder.mkdir()

    def finish(self, note: str, facts: dict[str, object]) -> None:
        """Move everything to its place, the note last: what it stands for is there once the note is."""
        self.final.mkdir(exist_ok=True)
        (self.folder / note).write_text(json.dumps(facts))
        for path in [*(p for p in self.folder.iterdir() if p.name != note), self.folder / note]:
            os.replace(path, self.final / path.name)

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_fault: object) -> None:
        shutil.rmtree(self.folder, ignore_errors=True)


def _save_sound(folder: Path, mono: NDArray[np.float32], rate: int) -> dict[str, object]:
    table, per_second = peaks_of(mono, rate)
    (folder / "peaks.bin").write_bytes(table.tobytes())
    write_wave(folder / "sound.wav", resample(mono, rate, SOUND_RATE), SOUND_RATE)
    write_wave(folder / "sync.wav", resample(mono, rate, SYNC_RATE), SYNC_RATE)
    return {"peaks_per_s": per_second, "peaks": len(table), "sound": True}


def _save_spooled(folder: Path, spool: Spool, offset_s: float) -> dict[str, object]:
    """A take's sound on its picture's clock, its peaks, and the sound that takes are lined up by, block by block."""
    if not len(spool):
        return {}
    hop = SOUND_RATE // PEAKS_HZ
    rest = np.zeros(0, np.float32)
    to_sync = StreamResampler(SOUND_RATE, SYNC_RATE, 1)
    sound, sync = WaveWriter(folder / "sound.wav", SOUND_RATE), WaveWriter(folder / "sync.wav", SYNC_RATE)
    count = 0
    with (folder / "peaks.bin").open("wb") as peaks:
        for block in spool.mono(offset_s):
            sound.add(block)
            sync.add(to_sync.push(block))
            rest = np.concatenate([rest, block])
            whole = len(rest) // hop * hop
            table, _ = peaks_of(rest[:whole], SOUND_RATE)
            peaks.write(table.tobytes())
            count, rest = count + len(table), rest[whole:]
        if len(rest):
            peaks.write(peaks_of(rest, SOUND_RATE)[0].tobytes())
            count += 1
        sync.add(to_sync.push(np.zeros(0, np.float32), last=True))
    sound.close()
    sync.close()
    return {"peaks_per_s": SOUND_RATE / hop, "peaks": count, "sound": True}


def derive_song(path: Path, cache: Path, content: str, progress: Progress) -> Path:
    """Make a song's peaks and analysis sound, and then a FLAC that every browser plays sample for sample.

    The peaks are there at ``DRAWN`` of the progress, so that the song can be seen as early as may be.
    """
    final = derived_folder(cache, content)
    progress(0.05, "Reading the song")
    sound, rate = read_sound(path)
    with _Workshop(final, "sound") as shop:
        progress(0.4, "Drawing its waveform")
        shop.finish(SOUND, _save_sound(shop.folder, sound.mean(axis=1), rate))
    with _Workshop(final, "song") as shop:
        progress(DRAWN, "Keeping a copy to play")
        write_flac(shop.folder / "song.flac", sound[:, :2], rate)
        shop.finish(ALL, {"rate": rate, "samples": len(sound), "channels": sound.shape[1]})
    return final


def write_flac(path: Path, sound: NDArray[np.float32], rate: int) -> None:
    """Write 16-bit FLAC, one or two channels."""
    with av.open(str(path), "w", format="flac") as out:
        stream = out.add_stream("flac", rate=rate)
        stream.layout = "stereo" if sound.shape[1] == 2 else "mono"
        stream.codec_context.format = "s16"
        for start in range(0, len(sound), 4096):
            # Full scale is 32768, as the reader has it, so that 16-bit sound is kept bit for bit.
            whole = np.clip(np.round(sound[start : start + 4096] * 32768.0), -32768, 32767).astype(np.int16)
            block = whole.reshape(1, -1)
            frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(block), "s16", stream.layout)
            frame.rate, frame.pts = rate, start
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))


def derive_sound(path: Path, cache: Path, content: str, progress: Progress) -> Path:
    """Read a video file's sound, with its place on the picture's clock, without decoding the picture."""
    with _Workshop(derived_folder(cache, content), "sound") as shop:
        with Spool(shop.folder / "sound.raw", SOUND_RATE) as spool:
            first_s = _hear(path, spool, progress)
            facts = _save_spooled(shop.folder, spool, spool.start_s - first_s)
        shop.finish(SOUND, facts)
    return shop.final


def _hear(path: Path, spool: Spool, progress: Progress) -> float:
    """Decode the sound alone; returns the presentation time of the first picture frame."""
    with opened(path) as container:
        video = _video(container)
        streams: list[av.stream.Stream] = [video, *container.streams.audio[:1]]
        first: int | None = None
        told = False
        length = float(container.duration / av.time_base) if container.duration else 0.0
        for packet in container.demux(streams):
            if packet.stream is not video:
                for frame in _decoded(packet):
                    spool.add(frame)
                if length:
                    progress(min(0.9, 0.9 * len(spool) / SOUND_RATE / length), "Reading the sound")
            elif packet.size and not packet.is_discard:
                told = told or packet.pts is None
                if packet.pts is not None:
                    first = packet.pts if first is None else min(first, packet.pts)
        base = Fraction(video.time_base or Fraction(1, 90_000))
    if first is None or told:
        # Some old containers give packets no presentation time: the decoder works it out.
        times = frame_times(path)
        return float(times.pts[0] * times.time_base)
    return float(first * base)


def _video(container: av.container.InputContainer) -> av.VideoStream:
    """The stream that is the film: not the cover picture of a song."""
    return next(s for s in container.streams.video if not s.disposition & av.stream.Disposition.attached_pic)


def derive_stills(path: Path, cache: Path, content: str, progress: Progress) -> Path:
    """Make first stills of the frames that can be decoded alone; the proxies' own take their place later."""
    with _Workshop(derived_folder(cache, content), "stills") as shop:
        sheet = StillSheet()
        with opened(path) as container:
            video = _video(container)
            video.codec_context.skip_frame = "NONKEY"
            first: float | None = None
            length = float(container.duration / av.time_base) if container.duration else 0.0
            upright: Upright | None = None
            for packet in container.demux(video):
                for frame in _decoded(packet) if packet.is_keyframe or not packet.size else []:
                    at = float((frame.pts or 0) * (frame.time_base or 0))
                    first = at if first is None else first
                    upright = upright or Upright(*proxy_size(*Upright.shown_size(frame), PROXY_SIZES["wall"]))
                    sheet.offer(upright.picture(frame), at - first)
                    progress(
                        min(0.95, (at - first) / length) if length else 0.5, "Looking through the picture"
                    )
        if not is_derived(cache, content):
            shop.finish(STILLS, {"stills": sheet.save(shop.folder / STILLS_SHEET)})
    return shop.final


def derive_picture(path: Path, cache: Path, content: str, progress: Progress) -> Path:
    """Make a video file's proxies and stills in one decoding pass, and its sound where that was not read before."""
    times = frame_times(path)
    final = derived_folder(cache, content)
    heard = is_heard(cache, content)
    with _Workshop(final, "picture") as shop:
        with Spool(shop.folder / "sound.raw", SOUND_RATE) as spool:
            facts = _decode_all(path, times, shop.folder, None if heard else spool, progress)
        known = json.loads((final / SOUND).read_text()) if (final / SOUND).exists() else {}
        shop.finish(ALL, {**known, **facts})
    return shop.final


def _write(writers: Mapping[str, ProxyWriter], pictures: Mapping[str, av.VideoFrame], times: int) -> None:
    """Append a picture to each proxy, so many times."""
    for _ in range(times):
        for name, writer in writers.items():
            writer.add(pictures[name])


def _decode_all(
    path: Path, times: FrameTimes, folder: Path, spool: Spool | None, progress: Progress
) -> dict[str, object]:
    sheet = StillSheet()
    writers: dict[str, ProxyWriter] = {}
    files = ExitStack()
    glance = LightMeter()
    upright: Upright | None = None
    done = 0
    behind: deque[Future[None]] = deque()
    # What was decoded is written beside, while more is decoded.
    with files, opened(path) as container, ThreadPoolExecutor(1) as writing:
        video = _video(container)
        video.thread_type = "AUTO"
        decoder = alpha_decoder(video)
        # Ahead of what is scaled and written, and no farther: pictures take room.
        video.codec_context.thread_count = min(_MOST_DECODERS, 2 * (os.cpu_count() or 1))
        streams: list[av.stream.Stream] = [video, *(container.streams.audio[:1] if spool is not None else ())]
        for packet in container.demux(streams):
            for frame in _decoded(packet, decoder if packet.stream is video else None):
                if isinstance(frame, av.AudioFrame):
                    if spool is not None:
                        spool.add(frame)
                    continue
                if frame.pts is None or done >= len(times.pts) or frame.pts < times.pts[0]:
                    continue
                if upright is None:
                    writers, upright = _open_writers(frame, folder, times, files)
                upto = int(np.searchsorted(times.pts, frame.pts, side="right"))
                plain = picture = upright.picture(frame)
                if writers["programme"].alpha:
                    picture = stacked(frame, upright.width, upright.height)
                pictures = {}
                for name, writer in writers.items():
                    # Each from the one before: a large source is scaled once.
                    picture = writer.scaled(picture)
                    pictures[name] = picture
                seen = plain if writers["programme"].alpha else pictures["wall"]
                glance.see(seen, float(times.times[min(upto, len(times.times)) - 1]))
                sheet.offer(seen, float(times.times[min(upto, len(times.times)) - 1]))
                # One proxy frame a source frame: a frame that cannot be decoded repeats its neighbour.
                behind.append(writing.submit(_write, writers, pictures, upto - done))
                if len(behind) > _BEHIND:
                    behind.popleft().result()
                done = max(done, upto)
                if done % 24 == 0:
                    progress(0.97 * done / len(times.pts), "Making proxies")
        for written in behind:
            written.result()
        for writer in writers.values():
            writer.finish()
    facts: dict[str, object] = {"frames": done, "stills": sheet.save(folder / STILLS_SHEET)}
    for name, writer in writers.items():
        facts[name] = _save_index(folder, name, writer, times)
    (folder / "moments.json").write_text(json.dumps([asdict(m) for m in glance.moments()]))
    if spool is not None:
        facts |= _save_spooled(folder, spool, spool.start_s - float(times.pts[0] * times.time_base))
    return facts


def _decoded(packet: Any, decoder: av.VideoCodecContext | None = None) -> list[Any]:
    """Frames of a packet, by the usual decoder or this one; a damaged packet gives none, and the pass goes on."""
    try:
        if decoder is not None:
            return list(decoder.decode(packet if packet.size else None))
        return list(packet.decode())
    except av.error.InvalidDataError:
        return []


def _open_writers(
    frame: av.VideoFrame, folder: Path, times: FrameTimes, files: ExitStack
) -> tuple[dict[str, ProxyWriter], Upright]:
    """The proxies, largest first, and what makes the largest one's pictures."""
    width, height = Upright.shown_size(frame)
    writers = {}
    for name, box in PROXY_SIZES.items():
        size = proxy_size(width, height, box)
        writers[name] = ProxyWriter(
            files.enter_context((folder / f"{name}.h264").open("wb")), *size, times.rate, has_alpha(frame)
        )
    largest = next(iter(writers.values()))
    return writers, Upright(largest.width, largest.height)


def _save_index(folder: Path, name: str, writer: ProxyWriter, times: FrameTimes) -> dict[str, int]:
    with (folder / f"{name}.h264").open("rb") as file:
        codec = codec_string(file.read(writer.sizes[0]))
    index = {
        "codec": codec, "width": writer.width, "height": writer.height, "alpha": writer.alpha,
        "times": [round(float(t), 6) for t in times.times[: len(writer.sizes)]],
        "offsets": writer.offsets, "sizes": writer.sizes,
    }  # fmt: skip
    (folder / f"{name}.json").write_text(json.dumps(index, separators=(",", ":")))
    return {"width": writer.width, "height": writer.height}
