import { useMemo } from "react";
import { create } from "zustand";
import { api, data, type PassView } from "../../api/client";
import { ordered } from "../../api/ordered";
import { useProject } from "../../api/project";
import { clock } from "../../player/clock";
import { type Cell, passName, workingPasses } from "./cells";
import { endsWithProject } from "../../parts/ending";

interface Chosen {
  cell: Cell | null;
  /** The alternate that C and X are about. */
  pass: number | null;
  /** Frames of a hole that is being filled. */
  hole: [number, number] | null;
}

/** Selection in the matrix. */
export const useChosen = create<Chosen>(() => ({ cell: null, pass: null, hole: null }));
endsWithProject(() => useChosen.setState(useChosen.getInitialState(), true));

/** Choose a cell and go to its section. */
export function chooseCell(cell: Cell | null, at?: number): void {
  useChosen.setState({ cell, pass: null, hole: null });
  if (at !== undefined) clock.seek(at);
}

/** The locked passes of the working song, by angle. */
export function useWorkingPasses(): { passes: PassView[]; name: (pass: PassView) => string } {
  const { state } = useProject();
  return useMemo(() => {
    const files = new Map(state.media.map((m) => [m.id, m.name]));
    const siblings = new Map(state.takes.map((t) => [t.media, t.passes]));
    const passes = state.takes
      .flatMap((t) => t.passes)
      .filter((p) => p.status === "locked")
      .flatMap((p) => workingPasses(p, state.kept));
    return { passes, name: (p) => passName(files.get(p.media) ?? "", p.id, siblings.get(p.media) ?? []) };
  }, [state.media, state.takes, state.kept]);
}

/** A choice and a rejection right after it reach the server in that order. */
const inTurn = ordered();

/** Actions of an editor on passes: the same by key, by click and by drag. */
export function usePassActions() {
  const { id, act: doIt, path } = useProject();
  const act: typeof doIt = (work, done) => inTurn(() => doIt(work, done));
  const judge = (pass: number, body: { verdict?: "" | "circled" | "rejected"; note?: string }) => {
    const params = { path: { project_id: id, pass_id: pass } };
    return act(() => data(api.PATCH("/api/v1/projects/{project_id}/coverage/passes/{pass_id}", { params, body })));
  };
  return {
    judge,
    feed: (angle: number, pass: number, start_s: number, end_s: number, said?: string) => {
      const body = { angle, pass_id: pass, start_s, end_s };
      return act(() => data(api.POST("/api/v1/projects/{project_id}/coverage/feeds", { params: path, body })), said);
    },
    move: (pass: number, angle: number) => {
      const params = { path: { project_id: id, pass_id: pass } };
      return act(() =>
        data(api.PUT("/api/v1/projects/{project_id}/coverage/passes/{pass_id}/angle", { params, body: { angle } })),
      );
    },
  };
}
