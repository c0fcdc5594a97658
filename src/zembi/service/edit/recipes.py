"""Recipes: treatments under a name, kept in a project or for all projects, and taken along as a file."""

import json
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from zembi.core.errors import BadInput
from zembi.core.interchange.limits import at_most, checked_json
from zembi.core.treatments.model import Treatment, checked_treatment, treatment_from_dict, treatment_to_dict
from zembi.service.project.named import MOST, NamedFile, checked_name
from zembi.service.project.transactions import one_transaction
from zembi.service.project.workspace import Project
from zembi.store import tables
from zembi.store.entities import Recipe

#: What a file of recipes says that it is.
FORMAT = "zembi recipes 1"


@dataclass(frozen=True)
class Named:
    """Treatments under a name."""

    name: str
    treatments: tuple[Treatment, ...]


@one_transaction
def keep(project: Project, recipe: Named) -> int:
    """Keep a recipe; one of that name takes the treatments.

    Raises:
        BadInput: no name, or nothing to keep.
    """
    recipe = _checked(recipe)
    values = _plain(recipe)
    known = project.database.all(Recipe, name=recipe.name)
    with project.database.changing(f"Keep the recipe {recipe.name}") as change:
        if known:
            change.update(tables.recipe, {"id": known[0].id}, values)
            return known[0].id
        return int(change.insert(tables.recipe, values)["id"])


@one_transaction
def drop(project: Project, recipe_id: int) -> None:
    """Take a recipe away; what it was used for stays.

    Raises:
        NotFound: there is none.
    """
    row = project.database.one(Recipe, id=recipe_id)
    with project.database.changing(f"Take the recipe {row.name} away") as change:
        change.delete(tables.recipe, {"id": recipe_id})


def written(project: Project) -> str:
    """Every recipe as a JSON document; its form is a schema of its own."""
    return _document([{"name": r.name, "treatments": r.treatments} for r in project.database.all(Recipe)])


@one_transaction
def read(project: Project, text: str) -> int:
    """Take recipes over from a document; those of the same name take its treatments. Returns how many.

    Raises:
        BadInput: not such a document, or damaged, with what is wrong.
    """
    recipes = recipes_of(text)
    known = {r.name: r.id for r in project.database.all(Recipe)}
    with project.database.changing(f"Take over {len(recipes)} recipes") as change:
        for r in recipes:
            values = _plain(r)
            if r.name in known:
                change.update(tables.recipe, {"id": known[r.name]}, values)
            else:
                known[r.name] = int(change.insert(tables.recipe, values)["id"])
    return len(recipes)


def shared_recipes(path: Path) -> NamedFile[Named]:
    """Recipes for all projects of a workspace, in a file."""
    return NamedFile(
        path, "recipes", "recipe", recipes_of, lambda found: _document([_plain(r) for r in found]), _checked
    )


def _checked(recipe: Named) -> Named:
    name = checked_name(recipe.name, "recipe")
    if not recipe.treatments:
        raise BadInput("A recipe holds one treatment at least.")
    for treatment in recipe.treatments:
        checked_treatment(treatment)
    return Named(name, recipe.treatments)


def _plain(recipe: Named) -> dict[str, Any]:
    return {"name": recipe.name, "treatments": [treatment_to_dict(t) for t in recipe.treatments]}


def _document(recipes: list[dict[str, Any]]) -> str:
    return json.dumps({"format": FORMAT, "recipes": recipes}, indent=1, ensure_ascii=False) + "\n"


def recipes_of(text: str) -> Sequence[Named]:
    """The recipes of a document.

    Raises:
        BadInput: not such a document, or damaged, with what is wrong.
    """
    document = checked_json(text, "The file of recipes", "a file of recipes")
    if not isinstance(document, dict) or document.get("format") != FORMAT:
        raise BadInput(f"This is no file of recipes: it does not say “{FORMAT}”.")
    listed = document.get("recipes")
    if not isinstance(listed, list) or not all(isinstance(r, dict) for r in listed):
        raise BadInput("The file of recipes names none.")
    at_most(len(listed), "The file of recipes", MOST)
    out = []
    for r in listed:
        treatments = r.get("treatments")
        if not isinstance(treatments, list) or not treatments:
            raise BadInput(f"The recipe {r.get('name')!r} holds no treatments.")
        out.append(
            Named(checked_name(r.get("name"), "recipe"), tuple(treatment_from_dict(t) for t in treatments))
        )
    return out
