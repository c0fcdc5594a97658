import { Slider } from "antd";
import { useEffect, useRef, useState } from "react";
import { api, data, type HitKind } from "../api/client";
import { HITS } from "../api/facts";
import { useProject } from "../api/project";

/** Milliseconds without another step after which what was chosen is kept: keys come one by one. */
const REST_MS = 250;

/** Sensitivity of a kind of hits, kept with the project: which are drawn, and what cuts fall on. */
export function Sensitivity({
  kind,
  width,
  seen,
}: {
  kind: HitKind;
  width?: number;
  seen?: (sensitivity: number) => void;
}) {
  const { state, act, path } = useProject();
  // What was chosen here stands until it is kept: an answer to an earlier step does not move the slider back.
  const [chosen, setChosen] = useState<number | null>(null);
  const rest = useRef<{ timer: number; keep: () => void } | null>(null);
  // Leaving does not lose the last step.
  useEffect(() => () => rest.current?.keep(), []);
  const choose = (sensitivity: number) => {
    setChosen(sensitivity);
    if (rest.current) window.clearTimeout(rest.current.timer);
    const keep = () => {
      if (rest.current) window.clearTimeout(rest.current.timer);
      rest.current = null;
      const body = { sensitivities: { [kind]: sensitivity } };
      void act(() => data(api.PATCH("/api/v1/projects/{project_id}/settings", { params: path, body }))).then(
        () => rest.current || setChosen(null),
      );
    };
    rest.current = { timer: window.setTimeout(keep, REST_MS), keep };
  };
  return (
    <Slider
      min={0.1}
      max={0.9}
      step={0.01}
      value={chosen ?? state.sensitivities[kind] ?? 0.5}
      onChange={(sensitivity) => {
        setChosen(sensitivity);
        seen?.(sensitivity);
      }}
      onChangeComplete={choose}
      tooltip={{ open: false }}
      ariaLabelForHandle={`Sensitivity of ${HITS[kind].many}`}
      data-testid={`sensitivity-${kind}`}
      {...(width ? { style: { width, margin: "0 6px" } } : {})}
    />
  );
}
