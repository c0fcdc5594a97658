"""Sections that footage is tagged for: the one rule for choosing clips, fillers and the shot list."""

from collections.abc import Iterable

#: Tags that begin with this and a colon are of a section and nothing else.
SECTION = "section"


def section_of(tag: str) -> str | None:
    """The section that a tag names after "section:"; None for another tag."""
    kind, colon, name = tag.partition(":")
    return name.strip() if colon and kind.strip().casefold() == SECTION else None


def tagged_for(section: str, tags: Iterable[str]) -> bool:
    """True if one of these tags is for a section.

    A tag names it by all or the first of its words, whatever their case and with or without "section:" before:
    "chorus" and "section: Chorus" are for Chorus 1, 2 and 3, "Verse 1" for Verse 1 and Verse 1 b, "cho" for none.
    """
    words = section.casefold().split()
    for tag in tags:
        named = section_of(tag)
        wanted = (tag if named is None else named).casefold().split()
        if wanted and words[: len(wanted)] == wanted:
            return True
    return False
