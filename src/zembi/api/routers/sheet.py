"""Sheet: edits, every operation on one, and what is planned for sections."""

from typing import Annotated

from fastapi import APIRouter, Path, Query, Response
from pydantic import TypeAdapter

from zembi.api.context import ProjectDep
from zembi.api.schemas import Id, Ok, Operation, PlannedView, PlanSection, PlanView, RuleView
from zembi.core.edit.judging import Judgement
from zembi.core.edit.model import AngleSource
from zembi.core.edit.operations import FillByRules, LayAt
from zembi.core.edit.operations.placing import Placement
from zembi.core.edit.planning import LENGTHS, NextBest, Pace, Shortfall
from zembi.core.edit.rules import RULES
from zembi.service.answers.changes import Told
from zembi.service.answers.edit import edit_view, picture_findings
from zembi.service.answers.views import EditView, FindingView
from zembi.service.edit import cutting
from zembi.service.project.workspace import Project

router = APIRouter(prefix="/projects/{project_id}", tags=["sheet"])

_EDIT = TypeAdapter(EditView)
_TOLD = Told()

#: The version of the edit that the page has: only what changed since is sent.
Since = Annotated[int | None, Query(ge=0)]
#: The edit that is meant.
EditId = Annotated[int, Path(ge=0, lt=2**63)]


@router.get("/edits/{edit_id}", response_model=EditView)
def get_edit(edit_id: EditId, project: ProjectDep) -> Response:
    """An edit and what it puts on screen."""
    return edit_answer(project, edit_view(project, edit_id))


@router.post("/edits/{edit_id}", response_model=EditView)
def operate(edit_id: EditId, body: Operation, project: ProjectDep, since: Since = None) -> Response:
    """Do one operation; the answer is the edit after it."""
    done = cutting.operate(project, edit_id, body.root)
    return edit_answer(project, edit_view(project, edit_id, done), since)


@router.post("/edits/{edit_id}/preview", response_model=EditView)
def preview(edit_id: EditId, body: Operation, project: ProjectDep, since: Since = None) -> Response:
    """The edit that an operation would make; nothing is changed."""
    view = edit_view(project, edit_id, cutting.preview(project, edit_id, body.root))
    return _answer(_TOLD.ahead(project.folder, view, since))


@router.get("/edits/{edit_id}/findings/pictures")
def findings_of_pictures(edit_id: EditId, project: ProjectDep) -> list[FindingView]:
    """Checks that look at pictures: cuts that jump beyond the limit, titles that are hard to read."""
    return picture_findings(project, edit_id)


@router.post("/edits/{edit_id}/placement")
def placement(edit_id: EditId, body: LayAt, project: ProjectDep) -> Placement:
    """Place that a clip would take if it were laid so; nothing is changed."""
    return cutting.placement(project, edit_id, body)


@router.post("/edits/{edit_id}/left-empty")
def left_empty(edit_id: EditId, body: FillByRules, project: ProjectDep) -> list[Shortfall]:
    """Reasons for each slot that filling by the rules would leave empty, and what helps; nothing is changed."""
    return cutting.left_empty(project, edit_id, body)


@router.get("/edits/{edit_id}/next-best/{item}")
def next_best(
    edit_id: EditId, item: Id, project: ProjectDep, without: Annotated[tuple[str, ...], Query()] = ()
) -> list[NextBest]:
    """Clips that could take the place of what a shot shows, the best first, each with what speaks for it."""
    return cutting.next_bests(project, edit_id, item, without)


@router.get("/edits/{edit_id}/judged")
def judged(edit_id: EditId, project: ProjectDep) -> Judgement:
    """Judge a cut as a whole."""
    return cutting.judged(project, edit_id)


@router.post("/edits/{edit_id}/judged")
def judged_ahead(edit_id: EditId, body: Operation, project: ProjectDep) -> Judgement:
    """Judge the cut that an operation would make; nothing is changed."""
    return cutting.judged_ahead(project, edit_id, body.root)


@router.get("/plan")
def cut_plan(project: ProjectDep) -> PlanView:
    """The plan of each section, and the rules by which it is carried out."""
    return PlanView(
        sections=[
            PlannedView(
                section=p.section, name=p.name, first=p.first, end=p.end, energy=p.energy, shortest=p.pace.shortest,
                longest=p.pace.longest, broll=p.pace.broll, leads=list(p.pace.leads), by_hand=p.by_hand,
            )
            for p in cutting.plan(project)
        ],
        rules=[RuleView(name=n, words=w, of="lengths") for n, w in LENGTHS.items()]
        + [
            RuleView(name=r.name, words=r.words, of="angles" if r.fills is AngleSource else "clips") for r in RULES
        ],
    )  # fmt: skip


@router.put("/plan/{section_id}")
def set_cut_plan(section_id: Id, body: PlanSection, project: ProjectDep) -> Ok:
    """Plan a section by hand, or by the energy of its music again."""
    pace = body.pace
    cutting.set_plan(
        project,
        section_id,
        Pace(pace.shortest, pace.longest, pace.broll, tuple(pace.leads)) if pace else None,
    )
    return Ok()


def edit_answer(project: Project, view: EditView, since: int | None = None) -> Response:
    """The view, or what changed of it since a version."""
    return _answer(_TOLD.since(project.folder, view, since))


def _answer(view: EditView) -> Response:
    """The view as JSON at once: it is our own, and checking it again takes longer than making it."""
    return Response(_EDIT.dump_json(view), media_type="application/json")
