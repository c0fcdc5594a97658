import { Slider } from "antd";
import { useEffect, useState } from "react";
import { api, data, type HitKind } from "../api/client";
import { HITS } from "../api/facts";
import { useProject } from "../api/project";

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
  const kept = state.sensitivities[kind] ?? 0.5;
  const [now, setNow] = useState(kept);
  useEffect(() => setNow(kept), [kept]);
  const keep = (sensitivity: number) =>
    act(() =>
      data(
        api.PATCH("/api/v1/projects/{project_id}/settings", {
          params: path,
          body: { sensitivities: { [kind]: sensitivity } },
        }),
      ),
    );
  return (
    <Slider
      min={0.1}
      max={0.9}
      step={0.01}
      value={now}
      onChange={(sensitivity) => {
        setNow(sensitivity);
        seen?.(sensitivity);
      }}
      onChangeComplete={(sensitivity) => void keep(sensitivity)}
      tooltip={{ open: false }}
      ariaLabelForHandle={`Sensitivity of ${HITS[kind].many}`}
      data-testid={`sensitivity-${kind}`}
      {...(width ? { style: { width, margin: "0 6px" } } : {})}
    />
  );
}
