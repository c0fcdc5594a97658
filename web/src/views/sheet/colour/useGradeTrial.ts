import { useCallback, useEffect, useRef } from "react";
import type { EditView, MediaView, Operation } from "../../../api/client";
import type { Layers } from "../../../player/layers";
import { useChoice } from "../choice";
import { changed, type Values } from "./grade";
import { type Frames, regraded, regradedFile } from "./regraded";

/** An item with its frames. */
export interface Graded extends Frames {
  id: number;
}

/**
 * Preview of a grade while a control is dragged: what the server would make of it is asked once, then the values of that one
 * step are changed here. What is shown stays until the edit that was written is there.
 */
export function useGradeTrial(ahead: (operation: Operation) => Promise<EditView>, edit: EditView | undefined) {
  const served = useRef<{ items: string; values: Values; layers: Layers } | null>(null);
  const wanted = useRef<Values | null>(null);
  const asking = useRef(false);
  const forget = useCallback(() => {
    served.current = null;
    wanted.current = null;
    useChoice.setState({ trial: null });
  }, []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was tried is nothing once the edit is another
  useEffect(() => {
    forget();
    return forget;
  }, [edit, forget]);
  const ofItems = useCallback(
    async (items: readonly Graded[], values: Values) => {
      wanted.current = values;
      const key = items.map((i) => i.id).join(" ");
      const known = served.current?.items === key ? served.current : null;
      const now = known && regraded(known.layers, items, known.values, values);
      if (now) useChoice.setState({ trial: now });
      if (now || asking.current) return;
      asking.current = true;
      const asked = { op: "grade", items: items.map((i) => i.id), values: changed(values) } as const;
      const found = await ahead(asked).catch(() => null);
      asking.current = false;
      const latest = wanted.current;
      // Let go of meanwhile: what is there now is shown.
      if (!found || !latest) return;
      served.current = { items: key, values, layers: found.programme.layers };
      if (latest === values) useChoice.setState({ trial: found.programme.layers });
      else await ofItems(items, latest);
    },
    [ahead],
  );
  const ofFile = (file: MediaView, values: Values) => {
    const before = Number(file.table.number > 0) + Number(file.evened);
    const has = Object.keys(file.grade).length > 0;
    useChoice.setState({ trial: regradedFile(edit?.programme.layers ?? [], file.id, before, has, values) });
  };
  return { ofItems: (items: readonly Graded[], values: Values) => void ofItems(items, values), ofFile, forget };
}
