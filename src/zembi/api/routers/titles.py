"""Titles: the picture of a card, how it is set, and title styles of one's own."""

from typing import Annotated, TypeVar

from fastapi import APIRouter, Depends, Query, Response
from pydantic import TypeAdapter, ValidationError

from zembi.api.context import ProjectDep, StudioDep
from zembi.api.download import disposition
from zembi.api.routers.sheet import EditId, edit_answer
from zembi.api.schemas import Id, KeepTitleStyle, Ok, RecipeText, TitlesText
from zembi.core.edit.operations import LayCues
from zembi.core.edit.operations.titles import TimedWords
from zembi.core.errors import BadInput
from zembi.core.interchange.titles import read_titles
from zembi.core.titles.card import Card
from zembi.core.titles.shown import Shown, checked_shown
from zembi.service.answers.edit import edit_view
from zembi.service.answers.views import EditView
from zembi.service.edit import cutting
from zembi.service.project.named import NamedFile
from zembi.service.titles.cards import CardSet, card_image, card_set
from zembi.service.titles.contrast import TitleContrast, title_contrasts
from zembi.service.titles.lines import TitleLine, title_line
from zembi.service.titles.styles import TitleStyle, styles_of, title_styles

router = APIRouter(tags=["titles"])

_CARD = TypeAdapter(Card)
_SHOWN = TypeAdapter(Shown)
T = TypeVar("T")
#: A card as JSON: an address that says all of it can be kept for ever.
CardText = Annotated[str, Query(max_length=40_000)]
ShownText = Annotated[str, Query(max_length=1000)]
Side = Annotated[int, Query(ge=2, le=8192)]


def _card(text: str) -> Card:
    return _read(_CARD, text, "That is no card")


def _read(adapter: TypeAdapter[T], text: str, wrong: str) -> T:
    try:
        return adapter.validate_json(text)
    except ValidationError as fault:
        first = fault.errors()[0]
        where = ".".join(str(p) for p in first["loc"])
        raise BadInput(f"{wrong}: {where or 'it'}: {first['msg']}.") from None


@router.get("/projects/{project_id}/card.png", response_class=Response)
def picture_of_card(
    project: ProjectDep, card: CardText, width: Side, height: Side, shown: ShownText = "{}"
) -> Response:
    """The film's picture of a card, or of what is ``shown`` of it, in a frame of a size, with alpha.

    It is the part that the card covers; the header ``card-place`` says its first column and row.
    """
    seen = checked_shown(_read(_SHOWN, shown, "That says not what is shown of a card"))
    made = card_image(project, _card(card), width, height, seen)
    head = {"cache-control": "private, max-age=86400", "card-place": f"{made.left} {made.top}"}
    return Response(made.png, media_type="image/png", headers=head)


@router.get("/projects/{project_id}/card")
def how_card_is_set(project: ProjectDep, card: CardText) -> CardSet:
    """Lines of a card as they are broken, its extent, and letters that no font has."""
    return card_set(project, _card(card))


@router.post("/projects/{project_id}/edits/{edit_id}/titles", response_model=EditView)
def read_titles_in(edit_id: EditId, body: TitlesText, project: ProjectDep) -> Response:
    """Lay the words of a file of timed text (SubRip, WebVTT, LRC) as titles; the answer is the edit after it."""
    cues = tuple(TimedWords(c.start_s, c.end_s, c.text) for c in read_titles(body.text, body.name))
    done = cutting.operate(project, edit_id, LayCues(cues, body.style, body.card))
    return edit_answer(project, edit_view(project, edit_id, done))


@router.get("/projects/{project_id}/edits/{edit_id}/titles/contrast")
def contrast_of_titles(
    project: ProjectDep, edit_id: EditId, item: Annotated[int | None, Query(ge=0, lt=2**63)] = None
) -> list[TitleContrast]:
    """Contrast of the titles of an edit, or of one of them, against the pictures under them."""
    return title_contrasts(project, edit_id, item)


@router.get("/projects/{project_id}/edits/{edit_id}/titles/{item}/line")
def line_of_title(project: ProjectDep, edit_id: EditId, item: Id) -> TitleLine:
    """Parts of a title that were changed by hand, against the line of the lyrics that it follows."""
    return title_line(project, edit_id, item)


def _styles(studio: StudioDep) -> NamedFile[TitleStyle]:
    return title_styles(studio.workspace.data / "title-styles.json")


StylesDep = Annotated[NamedFile[TitleStyle], Depends(_styles)]


@router.get("/title-styles")
def list_title_styles(styles: StylesDep) -> list[TitleStyle]:
    """Title styles for all projects, by name."""
    return styles.all()


@router.post("/title-styles", status_code=201)
def keep_title_style(body: KeepTitleStyle, styles: StylesDep) -> Ok:
    """Keep a card as a title style for all projects; one of the same name is replaced."""
    styles.keep([TitleStyle(body.name, body.card)])
    return Ok()


@router.delete("/title-styles/{name}")
def drop_title_style(name: str, styles: StylesDep) -> Ok:
    """Take a title style away; the titles that were made with it stay."""
    styles.drop(name)
    return Ok()


@router.get("/title-styles/file", response_class=Response)
def write_title_styles(styles: StylesDep) -> Response:
    """Title styles for all projects as a file to take along."""
    headers = {"Content-Disposition": disposition("title styles.json")}
    return Response(styles.written(), media_type="application/json", headers=headers)


@router.post("/title-styles/file")
def read_title_styles(body: RecipeText, styles: StylesDep) -> Ok:
    """Take title styles over from a file, for all projects."""
    found = styles_of(body.text)
    styles.keep(found)
    return Ok(note=f"{len(found)} title style{'s' if len(found) != 1 else ''} taken over")
