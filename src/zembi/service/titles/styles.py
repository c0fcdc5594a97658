"""Title styles of one's own: cards under a name, kept for all projects and taken along as a file."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from zembi.core.errors import BadInput
from zembi.core.interchange.limits import at_most, checked_json
from zembi.core.titles.card import Card, card_from_dict, card_to_dict, checked_card
from zembi.service.project.named import MOST, NamedFile, checked_name

#: What a file of title styles says that it is.
FORMAT = "zembi title styles 1"


@dataclass(frozen=True)
class TitleStyle:
    """A card under a name; its words are examples."""

    name: str
    card: Card


def title_styles(path: Path) -> NamedFile[TitleStyle]:
    """Title styles for all projects of a workspace, in a file."""
    return NamedFile(path, "title styles", "title style", styles_of, _document, _checked)


def _checked(style: TitleStyle) -> TitleStyle:
    return TitleStyle(checked_name(style.name, "title style"), checked_card(style.card))


def _document(styles: Sequence[TitleStyle]) -> str:
    listed = [{"name": s.name, "card": card_to_dict(s.card)} for s in styles]
    return json.dumps({"format": FORMAT, "styles": listed}, indent=1, ensure_ascii=False) + "\n"


def styles_of(text: str) -> list[TitleStyle]:
    """The title styles of a document.

    Raises:
        BadInput: not such a document, or damaged, with what is wrong.
    """
    document = checked_json(text, "The file of title styles", "a file of title styles")
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise BadInput(f"This is no file of title styles: it does not say “{FORMAT}”.")
    listed = document.get("styles")
    if not isinstance(listed, list) or not all(
        isinstance(s, dict) and isinstance(s.get("card"), dict) for s in listed
    ):
        raise BadInput("The file of title styles names none.")
    at_most(len(listed), "The file of title styles", MOST)
    return [TitleStyle(checked_name(s.get("name"), "title style"), card_from_dict(s["card"])) for s in listed]
