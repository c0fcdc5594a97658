import type { DragEvent } from "react";
import type { Unit } from "../../api/client";
import { useCommands } from "../../api/project";
import { type Carried, clipOf, isClip, useCarried } from "../../parts/broll/carrying";
import { useChoice } from "./choice";
import { type Row, timeOf } from "./geometry";
import { type LayAt, layAt } from "./laying";
import { layOnceTaken } from "../../parts/taken";

/** Ways of laying that have a place where something is dropped; the others go into the shot there. */
const PLACED = ["into", "next", "own", "front"] as const;

/**
 * Handlers that take a clip dropped on a row: above the shots it goes over them, on them it is laid in the chosen way.
 * Its place is pulled to what cuts fall on; Shift lays it by the frame. The ghost shows it while it is dragged.
 *
 * @param above Height of the strip of a row in which clips lie over the shots, in pixels.
 */
export function useDrop(row: Row, width: number, above: number) {
  const { now, operate } = useCommands();
  const bodyOf = (event: DragEvent, clip: Carried): LayAt => {
    const box = event.currentTarget.getBoundingClientRect();
    const at = Math.min(
      row.phrase.end_s - 1e-3,
      Math.max(row.phrase.start_s, timeOf(row, event.clientX - box.left, width)),
    );
    const { way, by, lane } = useChoice.getState();
    const over = event.clientY - box.top < above;
    const body = layAt(
      { ...clip, way: over ? "over" : (PLACED.find((p) => p === way) ?? "into"), by, lane },
      now().state,
      false,
      at,
    );
    return event.shiftKey ? { ...body, unit: "free" as Unit } : body;
  };
  return {
    onDragOver: (event: DragEvent) => {
      if (event.dataTransfer.types.includes("Files")) {
        event.preventDefault();
        return;
      }
      if (!isClip(event.dataTransfer)) return;
      event.preventDefault();
      event.dataTransfer.dropEffect = "copy";
      // Of what comes from another window it is known only when it is dropped.
      const { clip } = useCarried.getState();
      if (!clip) return;
      const dragged = bodyOf(event, clip);
      if (JSON.stringify(useChoice.getState().dragged) !== JSON.stringify(dragged)) useChoice.setState({ dragged });
    },
    onDragLeave: (event: DragEvent) => {
      if (!event.currentTarget.contains(event.relatedTarget as Node | null)) useChoice.setState({ dragged: null });
    },
    onDrop: (event: DragEvent) => {
      useChoice.setState({ dragged: null });
      if (event.dataTransfer.types.includes("Files")) {
        // The page takes the file in; once it can be read, it is laid here.
        const place = bodyOf(event, { media: "", select: null });
        layOnceTaken((media) => operate({ ...place, media }));
        return;
      }
      const clip = clipOf(event.dataTransfer);
      if (!clip) return;
      event.preventDefault();
      void operate(bodyOf(event, clip));
    },
  };
}
