"""Filming the demo: takes from four cameras and a pile of B-roll, with known truth about where each lies."""

from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import soxr
from numpy.typing import NDArray

from zembi.demo.camera import Room, chatter, drift, record
from zembi.demo.countmarks import draw_count
from zembi.demo.scenes import BROLL, FILMED, Stage, filmed, framed
from zembi.demo.synth import Performance

Progress = Callable[[float], None]
#: Seconds of song, or of chatter, that a take holds one after another: (song from, to) or (None, seconds).
Stretch = tuple[float | None, float]


@dataclass(frozen=True)
class TakePlan:
    """Recipe of a take as filmed.

    Attributes:
        stretches: What plays, in order: (song start, song end), or (None, seconds) for talk between.
        ppm: How slow the camera's clock runs.
        sound: False for a camera without microphone.
        sound_late_s: Sound stream starts this much after the picture.
        variable: Frame spacing varies, as on a phone.
        camera: What the editor calls the camera; "" where nobody has said so.
        close: What is framed of the place: left, top and size, of its whole.
        flat: Filmed as a camera does that keeps room at both ends: dark and of little contrast.
    """

    name: str
    place: str
    rate: Fraction
    stretches: tuple[Stretch, ...]
    room: Room = field(default_factory=Room)
    ppm: float = 0.0
    sound: bool = True
    sample_rate: int = 48_000
    stereo: bool = True
    sound_late_s: float = 0.0
    variable: bool = False
    timecode: str = ""
    seed: int = 1
    camera: str = ""
    close: tuple[float, float, float] = (0.0, 0.0, 1.0)
    flat: bool = False

    @property
    def seconds(self) -> float:
        """Length on the camera's own clock."""
        return sum(b if a is None else b - a for a, b in self.stretches) / (1 + self.ppm * 1e-6)

    def song_time(self, take_s: float) -> float | None:
        """Song time at a take time; None where no song plays."""
        at = take_s * (1 + self.ppm * 1e-6)
        for a, b in self.stretches:
            length = b if a is None else b - a
            if at < length:
                return None if a is None else a + at
            at -= length
        return None


NTSC = Fraction(24000, 1001)
TAKES: tuple[TakePlan, ...] = (
    TakePlan("GAL_01", "gallery", Fraction(24), ((None, 3.2), (0.0, 112.9), (None, 1.4)), timecode="01:00:00:00", seed=11,
             camera="Gallery wide"),
    TakePlan("GAL_02", "gallery", NTSC, ((None, 1.1), (44.0, 96.0), (None, 1.0)), seed=12, camera="Gallery wide"),
    TakePlan(
        "LAMP_01", "lamp", Fraction(30000, 1001), ((None, 2.0), (6.0, 77.0), (None, 0.5)),
        Room(1.1, -2.0, -8.0, pumping=0.6, direct_db=0.0), seed=13, camera="Lamp room close",
    ),
    TakePlan("LAMP_03", "lamp", Fraction(24), ((None, 0.8), (27.6, 41.4), (None, 0.7)), Room(0.3, -24.0), seed=14,
             camera="Lamp room close"),
    TakePlan("DECK_04", "ferry", Fraction(25), ((None, 2.2), (0.0, 34.0), (None, 4.0), (43.0, 77.8), (None, 1.0)), seed=15,
             camera="Ferry deck"),
    TakePlan("PHONE_11", "ferry", Fraction(30), ((None, 1.5), (58.0, 112.0)), Room(0.6, -14.0, low_hz=180.0), ppm=120.0,
             sound_late_s=3088 / 48_000, variable=True, seed=16, camera="Phone on deck"),
    TakePlan("LOFT_07", "loft", Fraction(24), ((None, 1.0), (26.0, 86.5)), sample_rate=44_100, stereo=False, seed=17,
             camera="Net loft", flat=True),
    TakePlan("LOFT_08", "loft", Fraction(24), ((None, 12.0),), seed=18, camera="Net loft", flat=True),
    TakePlan("HIGH_02", "gallery", Fraction(60), ((8.0, 16.0),), sound=False, timecode="01:00:11:12", seed=19, camera="High speed"),
    # The same cameras, set up closer; nobody has said which is which.
    TakePlan("GAL_05", "gallery", Fraction(24), ((None, 0.9), (8.0, 43.5)), seed=20, close=(0.06, 0.3, 0.56)),
    TakePlan("DECK_07", "ferry", Fraction(25), ((None, 1.2), (60.5, 88.0), (None, 0.6)), seed=21, close=(0.38, 0.34, 0.5)),
)  # fmt: skip


@dataclass(frozen=True)
class ClipPlan:
    """A B-roll clip."""

    name: str
    scene: str
    rate: Fraction
    seconds: float


CLIPS: tuple[ClipPlan, ...] = (
    ClipPlan("Swell_slow", "swell", Fraction(60), 6.2),
    ClipPlan("Beam_turn", "beam", Fraction(24), 4.5),
    ClipPlan("Gulls_over_stern", "gulls", Fraction(30000, 1001), 3.1),
    ClipPlan("Rope_coil", "rope", Fraction(25), 5.5),
    ClipPlan("Chart_and_pencil", "chart", Fraction(24), 6.0),
    ClipPlan("Bell_buoy", "buoy", Fraction(24), 4.4),
    ClipPlan("Stairwell", "stairs", Fraction(30), 7.7),
    ClipPlan("Wake", "wake", NTSC, 8.0),
    ClipPlan("Beam_high_speed", "beam", Fraction(120), 2.5),
)
#: A photograph among the B-roll: its name, the scene, and the moment.
PHOTOGRAPH = ("Chart_photograph.jpg", "chart", 4.0)
#: What was planned before the shoot, and the names of what was shot of it; the hands never were.
SHOT_LIST: tuple[tuple[str, str, str, tuple[str, ...]], ...] = (
    ("Verse 1", "wide on the rail", "GAL", ("GAL_01",)),
    ("Verse 1", "close, walking", "GAL", ("GAL_05",)),
    ("Chorus 1", "singing by the lamp", "LAMP", ("LAMP_01",)),
    ("Chorus 1", "hands on the lamp", "LAMP", ()),
    ("Chorus 2", "beam turning", "", ("Beam turn", "Beam high speed")),
    ("Bridge", "deck, close", "DECK", ("DECK_07",)),
)


def mouth_at(performance: Performance, song_s: float | None) -> float:
    """Opening of the singer's mouth at a song time, 0..1."""
    if song_s is None:
        return 0.0
    for start, end, wide in performance.syllables:
        if start - 0.02 <= song_s < end:
            rise = min(1.0, (song_s - start + 0.02) / 0.06)
            fall = min(1.0, (end - song_s) / 0.08)
            return wide * min(rise, fall)
    return 0.0


def frame_pts(count: int, rate: Fraction, *, variable: bool, seed: int = 0) -> NDArray[np.int64]:
    """Presentation times of ``count`` frames on a 90 kHz clock, evenly spaced or as a phone spaces them."""
    even = np.round(np.arange(count) * 90_000 / float(rate)).astype(np.int64)
    if not variable:
        return even
    rng = np.random.default_rng(seed)
    jitter = rng.integers(-900, 900, count)
    jitter[0] = 0
    late = np.cumsum(rng.random(count) < 0.02) * 1500  # now and then a frame comes half a frame late
    return np.maximum.accumulate(even + late + jitter + np.arange(count))


class FilmWriter:
    """Writes drawn frames and sound to an MP4 or MOV file."""

    def __init__(
        self, path: Path, size: tuple[int, int], rate: Fraction, *, timecode: str = "", **options: str
    ) -> None:
        self._out = av.open(
            str(path), "w", options={"movflags": "+faststart", "video_track_timescale": "90000"}
        )
        self._video = self._out.add_stream("libx264", rate=rate)
        self._video.width, self._video.height, self._video.pix_fmt = *size, "yuv420p"
        self._video.time_base = self._video.codec_context.time_base = Fraction(1, 90_000)
        self._video.codec_context.options = {"preset": "ultrafast", "crf": "22", "g": "48", **options}
        self._video.codec_context.thread_count = 1
        if timecode:
            self._video.metadata["timecode"] = timecode
        self._sound: av.AudioStream | None = None

    def add_sound(self, sample_rate: int, channels: int) -> None:
        """Make room for a sound stream; call before the first frame."""
        self._sound = self._out.add_stream("aac", rate=sample_rate, options={"aac_coder": "fast"})
        self._sound.layout = "stereo" if channels == 2 else "mono"
        self._sound.bit_rate = 128_000

    def frame(self, planes: list[NDArray[np.uint8]], pts: int) -> None:
        """Write one picture, given as luma and chroma planes (4:2:0)."""
        flat = np.concatenate([planes[0], *(p.reshape(-1, planes[0].shape[1]) for p in planes[1:])])
        frame = av.VideoFrame.from_ndarray(flat, "yuv420p")
        frame.pts, frame.time_base = pts, Fraction(1, 90_000)
        self._out.mux(self._video.encode(frame))

    def sound(self, samples: NDArray[np.float32], *, late_s: float = 0.0) -> None:
        """Write all the sound, shape (samples, channels), starting ``late_s`` after the picture."""
        assert self._sound is not None
        rate = self._sound.rate
        for start in range(0, len(samples), 1024):
            block = np.ascontiguousarray(samples[start : start + 1024].T)
            frame = av.AudioFrame.from_ndarray(block, "fltp", self._sound.layout)
            frame.rate, frame.time_base, frame.pts = rate, Fraction(1, rate), start + round(late_s * rate)
            self._out.mux(self._sound.encode(frame))

    def close(self) -> None:
        """Finish the file."""
        self._out.mux(self._video.encode(None))
        if self._sound is not None:
            self._out.mux(self._sound.encode(None))
        self._out.close()


def take_sound(plan: TakePlan, performance: Performance) -> NDArray[np.float32]:
    """Samples that the take's microphone records, shape (samples, channels), at the take's sample rate."""
    rate = performance.sample_rate
    song = performance.audio.mean(axis=1)
    pieces, talk = [], []
    for k, (a, b) in enumerate(plan.stretches):
        count = round((b if a is None else b - a) * rate)
        piece = np.zeros(count, np.float32) if a is None else song[round(a * rate) : round(a * rate) + count]
        pieces.append(np.pad(piece, (0, count - len(piece))))
        talk.append(
            chatter(count / rate, rate, plan.seed * 7 + k)[:count] * 0.25
            if a is None
            else np.zeros(count, np.float32)
        )
    heard = record(np.concatenate(pieces) + np.concatenate(talk), rate, plan.room, plan.seed)
    if plan.ppm:
        heard = drift(heard, rate, plan.ppm)
    if plan.sample_rate != rate:
        heard = np.asarray(soxr.resample(heard, rate, plan.sample_rate), dtype=np.float32)
    # Sound that starts late has lost its head, so that what is heard still fits the picture.
    heard = heard[round(plan.sound_late_s * plan.sample_rate) :]
    return np.stack([heard, heard * 0.8], axis=1) if plan.stereo else heard[:, None]


def flattened(planes: list[NDArray[np.uint8]]) -> list[NDArray[np.uint8]]:
    """A picture as a camera films it that keeps room at both ends: dark, of little contrast and of little colour."""
    luma, *chroma = (p.astype(np.float32) for p in planes)
    flat = [24 + 0.56 * (luma - 16), *(128 + 0.62 * (c - 128) for c in chroma)]
    return [np.rint(p).astype(np.uint8) for p in flat]


def film_take(
    plan: TakePlan, performance: Performance, folder: Path, progress: Progress = lambda _s: None
) -> Path:
    """Film a take; returns the file."""
    path = folder / f"{plan.name}.mp4"
    stage = Stage(plan.place)
    count = int(plan.seconds * float(plan.rate))
    pts = frame_pts(count, plan.rate, variable=plan.variable, seed=plan.seed)
    beats = np.array(performance.beats_s)
    writer = FilmWriter(path, FILMED, plan.rate, timecode=plan.timecode)
    if plan.sound:
        writer.add_sound(plan.sample_rate, 2 if plan.stereo else 1)
        writer.sound(take_sound(plan, performance), late_s=plan.sound_late_s)
    for n in range(count):
        at = pts[n] / 90_000
        song_s = plan.song_time(at)
        beat = float(np.interp(song_s, beats, np.arange(len(beats)))) % 1 if song_s is not None else 0.25
        picture = framed(stage.frame(at, mouth_at(performance, song_s), beat), plan.close)
        if plan.flat:
            picture = flattened(picture)
        draw_count(picture[0], n)
        writer.frame(picture, int(pts[n]))
        if n % 24 == 0:
            progress(n / count)
    writer.close()
    return path


def take_photograph(folder: Path) -> Path:
    """The photograph among the B-roll; returns the file."""
    name, scene, at = PHOTOGRAPH
    BROLL[scene](at).resize((1920, 1080)).save(folder / name, quality=90)
    return folder / name


def film_clip(plan: ClipPlan, folder: Path) -> Path:
    """Film a B-roll clip; returns the file."""
    path = folder / f"{plan.name}.mp4"
    writer = FilmWriter(path, FILMED, plan.rate)
    for n in range(int(plan.seconds * float(plan.rate))):
        picture = filmed(BROLL[plan.scene](n / float(plan.rate)))
        draw_count(picture[0], n)
        writer.frame(picture, round(n * 90_000 / float(plan.rate)))
    writer.close()
    return path
