"""Listening to the song: its beats, sections and hits, kept beside what is derived of it."""

from pathlib import Path

from zembi.core.song.listen import SongAnalysis, listen
from zembi.core.song.spectrum import RATE as LISTEN_RATE
from zembi.core.sync.features import choose_sound
from zembi.jobs.worker import Report
from zembi.media.sound import read_sound, resample
from zembi.service.media.analyses import load_analysis, save_analysis
from zembi.service.project.workspace import Project
from zembi.service.song.choice import begin
from zembi.store.entities import Media


def listen_to(path: Path, report: Report) -> SongAnalysis:
    """Listen to a sound file."""
    report(0.02, "Reading the song")
    sound, rate = read_sound(path)
    mono = resample(choose_sound(sound), rate, LISTEN_RATE)
    return listen(
        mono, loudness_audio=sound, loudness_rate=rate, progress=lambda s, w: report(0.1 + 0.88 * s, w)
    )


def listen_to_song(project: Project, row: Media, report: Report) -> None:
    """Analyse the song, where it is not yet, and begin the project's sections and edit with what was found."""
    derived = project.derived(row)
    if load_analysis(derived) is None:
        save_analysis(derived, listen_to(project.file_of(row), report))
    begin(project)
