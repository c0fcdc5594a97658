"""Feeds: which pass an angle shows in a range of the song, chosen by the editor."""

from dataclasses import replace

from zembi.core.lineup.coverage import Feed


def chosen(feeds: list[Feed], choice: Feed) -> list[Feed]:
    """The feeds of an angle after a choice: earlier ones give way inside its range and stay outside it.

    Args:
        feeds: All feeds of the choice's angle, not overlapping.
        choice: What is chosen now.

    Returns:
        Feeds in order of their start; they do not overlap.
    """
    out = [choice]
    for feed in feeds:
        if feed.start_s < choice.start_s:
            out.append(replace(feed, end_s=min(feed.end_s, choice.start_s)))
        if feed.end_s > choice.end_s:
            out.append(replace(feed, start_s=max(feed.start_s, choice.end_s)))
    return sorted(out, key=lambda f: f.start_s)


def beside(feed: Feed, feeds: list[Feed]) -> list[Feed]:
    """Parts of a feed that no other of ``feeds`` (not overlapping) takes."""
    parts, at = [], feed.start_s
    for other in sorted(feeds, key=lambda f: f.start_s):
        if other.end_s <= at or other.start_s >= feed.end_s:
            continue
        if other.start_s > at:
            parts.append(replace(feed, start_s=at, end_s=other.start_s))
        at = other.end_s
    if at < feed.end_s:
        parts.append(replace(feed, start_s=at))
    return parts
