import { useCallback, useEffect, useRef, useState } from "react";
import type { EditView, Operation } from "../../../api/client";
import { useChoice } from "../choice";

/** Preview of an operation while a value is dragged: only the last one wanted is requested, one request at a time. */
export function useTrial(ahead: (operation: Operation) => Promise<EditView>, edit: EditView | undefined) {
  const [would, setWould] = useState<EditView | null>(null);
  const wanted = useRef<Operation | null>(null);
  const asking = useRef(false);
  const show = useCallback((edit: EditView | null) => {
    setWould(edit);
    useChoice.setState({ trial: edit?.programme.layers ?? null });
  }, []);
  const preview = useCallback(
    async (operation: Operation | null) => {
      wanted.current = operation;
      if (!operation) return show(null);
      if (asking.current) return;
      asking.current = true;
      for (let next = wanted.current; next; next = wanted.current === next ? null : wanted.current) {
        const found = await ahead(next).catch(() => null);
        // Let go of meanwhile: what is there now is shown.
        if (wanted.current && found) show(found);
      }
      asking.current = false;
    },
    [ahead, show],
  );
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was tried is nothing once the edit is another
  useEffect(() => {
    wanted.current = null;
    show(null);
    return () => show(null);
  }, [edit, show]);
  return { would, preview: (operation: Operation | null) => void preview(operation) };
}
