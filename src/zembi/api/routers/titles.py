"""Titles: the picture of a card, and how it is set."""

from typing import Annotated

from fastapi import APIRouter, Query, Response
from pydantic import TypeAdapter, ValidationError

from zembi.api.context import ProjectDep
from zembi.core.errors import BadInput
from zembi.core.titles.card import Card
from zembi.service.titles.cards import CardSet, card_png, card_set

router = APIRouter(prefix="/projects/{project_id}", tags=["titles"])

_CARD = TypeAdapter(Card)
#: A card as JSON: an address that says all of it can be kept for ever.
CardText = Annotated[str, Query(max_length=40_000)]
Side = Annotated[int, Query(ge=2, le=8192)]


def _card(text: str) -> Card:
    try:
        return _CARD.validate_json(text)
    except ValidationError as fault:
        first = fault.errors()[0]
        where = ".".join(str(p) for p in first["loc"])
        raise BadInput(f"That is no card: {where or 'it'}: {first['msg']}.") from None


@router.get("/card.png", response_class=Response)
def picture_of_card(project: ProjectDep, card: CardText, width: Side, height: Side) -> Response:
    """The film's picture of a card, scaled to a size, with alpha."""
    head = {"cache-control": "private, max-age=86400"}
    return Response(card_png(project, _card(card), width, height), media_type="image/png", headers=head)


@router.get("/card")
def how_card_is_set(project: ProjectDep, card: CardText) -> CardSet:
    """How a card is set: its lines as they are broken, its extent, and letters that no font has."""
    return card_set(project, _card(card))
