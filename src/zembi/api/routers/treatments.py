"""Recipes of treatments: kept, used again, taken along as a file."""

from typing import Any

from fastapi import APIRouter, Response
from pydantic import TypeAdapter

from zembi.api.context import ProjectDep
from zembi.api.download import disposition
from zembi.api.schemas import Id, KeepRecipe, Ok, RecipeText
from zembi.core.treatments.model import KINDS
from zembi.service.edit import recipes

router = APIRouter(prefix="/api", tags=["treatments"])


@router.post("/projects/{project_id}/recipes", status_code=201)
def keep_recipe(body: KeepRecipe, project: ProjectDep) -> int:
    """Keep treatments under a name; the answer is the recipe's number."""
    return recipes.keep(project, recipes.Named(body.name, tuple(body.treatments)))


@router.delete("/projects/{project_id}/recipes/{recipe_id}")
def drop_recipe(recipe_id: Id, project: ProjectDep) -> Ok:
    """Take a recipe away; what it was used for stays."""
    recipes.drop(project, recipe_id)
    return Ok()


@router.get("/projects/{project_id}/recipes/file", response_class=Response)
def write_recipes(project: ProjectDep) -> Response:
    """Every recipe of the project as a file to take along."""
    name = f"{project.id} recipes.json"
    return Response(
        recipes.written(project),
        media_type="application/json",
        headers={"Content-Disposition": disposition(name)},
    )


@router.post("/projects/{project_id}/recipes/file")
def read_recipes(body: RecipeText, project: ProjectDep) -> Ok:
    """Take recipes over from a file."""
    count = recipes.read(project, body.text)
    return Ok(note=f"{count} recipe{'s' if count != 1 else ''} taken over")


@router.get("/recipes/form")
def recipe_form() -> dict[str, Any]:
    """The form of a file of recipes as a JSON schema."""
    return _form()


def _form() -> dict[str, Any]:
    """The form of a file of recipes as a JSON schema (draft 2020-12)."""
    kinds = [TypeAdapter(kind).json_schema(ref_template="#/$defs/{model}") for kind in KINDS.values()]
    parts: dict[str, Any] = {}
    for kind in kinds:
        parts |= kind.pop("$defs", {})
        # The kind is what tells one from another.
        kind["required"] = sorted({*kind.get("required", []), "kind"})
        parts[kind["title"]] = kind
    treatments = {
        "type": "array",
        "minItems": 1,
        "items": {"oneOf": [{"$ref": f"#/$defs/{k['title']}"} for k in kinds]},
    }
    one = {
        "type": "object",
        "required": ["name", "treatments"],
        "properties": {
            "name": {"type": "string", "minLength": 1, "maxLength": 120},
            "treatments": treatments,
        },
    }
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Recipes of treatments",
        "type": "object",
        "required": ["format", "recipes"],
        "properties": {"format": {"const": recipes.FORMAT}, "recipes": {"type": "array", "items": one}},
        "$defs": parts,
    }
