import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, data, type EditView, type ItemView, type Schemas } from "../../../api/client";
import { CHECK_LIMITS } from "../../../api/facts";
import { useMemo } from "react";
import { itemsOn, shotsOf } from "../../../api/lanes";
import { useEdit, useProject } from "../../../api/project";
import { spanAt } from "../../../player/layers";
import { useFrame } from "../../../player/useFrame";
import { filled } from "../treating/kinds";
import type { Grade } from "./grade";
import { type InTurn, seenInTurn } from "./turns";

export type Jump = Schemas["CutJump"];

/** How much a cut jumps that is pointed out; the project's own limit. */
export function useJumpLimit(): number {
  return useProject().state.limits.jump ?? CHECK_LIMITS.jump[0];
}

/** True for a cut that is pointed out: it jumps beyond the limit, and is not meant to. */
export const isFar = (jump: Jump, limit: number): boolean => jump.meant === null && jump.jump > limit;

/** How much each cut of the edit jumps; measured again when the edit, or the grade of a file, changes. */
export function useJumps(): readonly Jump[] {
  const { id, state, ofEdit } = useProject();
  const edit = useEdit();
  const grades = state.media.map((m) => JSON.stringify(m.grade)).join(" ");
  const found = useQuery({
    queryKey: ["jumps", id, edit?.id, edit?.version, grades],
    queryFn: () => data(api.GET("/api/v1/projects/{project_id}/edits/{edit_id}/colour/jumps", { params: ofEdit() })),
    enabled: edit !== undefined,
    placeholderData: keepPreviousData,
    retry: false,
  });
  return found.data ?? [];
}

/** The shot or cutaway that is seen at the playhead, its own grade, its neighbours, and the file that it shows. */
export function useShot() {
  const { state, rate } = useProject();
  const edit = useEdit();
  const frame = useFrame(rate);
  const seen = useMemo(() => (edit ? seenInTurn(shotsOf(edit), itemsOn(edit, "over")) : []), [edit]);
  const at = seen.findIndex((s) => frame >= s.start && frame < s.end);
  const shot = seen[at];
  const treatments = filled(shot?.item.treated);
  const own = treatments.find((t) => t.kind === "grade") as Grade | undefined;
  const layers = edit?.programme.layers ?? [];
  const span = layers.map((spans) => spanAt(spans, frame)).findLast((s) => s?.kind === "picture");
  const file = state.media.find((m) => m.id === span?.media);
  return { frame, shot, treatments, own, file, before: seen[at - 1], after: seen[at + 1] };
}

/** Shots and cutaways of an edit that show the angle that an item shows; none where that shows no angle. */
export function ofAngle(edit: EditView, item: ItemView): ItemView[] {
  const { angle } = item.source;
  if (!angle) return [];
  return [...shotsOf(edit), ...itemsOn(edit, "over")].filter((i) => i.source.angle === angle);
}

/** The name of what an item shows. */
export function nameOfShot(seen: InTurn | undefined, state: ReturnType<typeof useProject>["state"]): string {
  const angle = state.angles.find((a) => a.id === seen?.item.source.angle);
  if (angle) return `${angle.number} ${angle.name}`;
  return state.media.find((m) => m.id === seen?.item.source.media)?.name ?? seen?.item.source.kind ?? "";
}
