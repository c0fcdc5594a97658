"""Recipes of treatments: kept, used again, taken along as a file."""

from typing import Annotated, Any

from fastapi import APIRouter, Depends, Response
from pydantic import TypeAdapter

from zembi.api.context import ProjectDep, StudioDep
from zembi.api.download import disposition
from zembi.api.schemas import Id, KeepRecipe, Ok, RecipeText, SharedRecipeView
from zembi.core.treatments.model import KINDS
from zembi.service.edit import recipes
from zembi.service.project.named import NamedFile

router = APIRouter(tags=["treatments"])


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
    return Ok(note=_taken(recipes.read(project, body.text)))


def _shared(studio: StudioDep) -> NamedFile[recipes.Named]:
    return recipes.shared_recipes(studio.workspace.data / "recipes.json")


SharedDep = Annotated[NamedFile[recipes.Named], Depends(_shared)]


@router.get("/recipes")
def list_shared(shared: SharedDep) -> list[SharedRecipeView]:
    """Recipes for all projects, by name."""
    return [SharedRecipeView(name=r.name, treatments=list(r.treatments)) for r in shared.all()]


@router.post("/recipes", status_code=201)
def keep_shared(body: KeepRecipe, shared: SharedDep) -> Ok:
    """Keep treatments under a name for all projects; those of the same name are replaced."""
    shared.keep([recipes.Named(body.name, tuple(body.treatments))])
    return Ok()


@router.delete("/recipes/{name}")
def drop_shared(name: str, shared: SharedDep) -> Ok:
    """Take a recipe for all projects away; what it was used for stays."""
    shared.drop(name)
    return Ok()


@router.get("/recipes/file", response_class=Response)
def write_shared(shared: SharedDep) -> Response:
    """Recipes for all projects as a file to take along."""
    headers = {"Content-Disposition": disposition("recipes.json")}
    return Response(shared.written(), media_type="application/json", headers=headers)


@router.post("/recipes/file")
def read_shared(body: RecipeText, shared: SharedDep) -> Ok:
    """Take recipes over from a file, for all projects."""
    found = recipes.recipes_of(body.text)
    shared.keep(found)
    return Ok(note=_taken(len(found)))


def _taken(count: int) -> str:
    return f"{count} recipe{'s' if count != 1 else ''} taken over"


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
