import { Slider } from "antd";
import { useEffect, useState } from "react";
import { api, data } from "../api/client";
import { useProject } from "../api/project";

/** Sensitivity of hits, kept with the project: which are drawn, and what cuts fall on. */
export function Sensitivity({ width, seen }: { width?: number; seen?: (sensitivity: number) => void }) {
  const { state, act, path } = useProject();
  const [now, setNow] = useState(state.sensitivity);
  useEffect(() => setNow(state.sensitivity), [state.sensitivity]);
  const keep = (sensitivity: number) =>
    act(() => data(api.PUT("/api/projects/{project_id}/settings", { params: path, body: { sensitivity } })));
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
      aria-label="Sensitivity of hits"
      data-testid="sensitivity"
      {...(width ? { style: { width, margin: "0 6px" } } : {})}
    />
  );
}
