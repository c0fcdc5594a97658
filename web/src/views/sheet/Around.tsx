import { Segmented } from "antd";
import { useState } from "react";
import { useEdit, useProject } from "../../api/project";
import { within } from "../../api/facts";
import type { SongView } from "../../api/client";
import { NumberField } from "../../parts/NumberField";

type Unit = "seconds" | "bars";

/** Seconds of the first bar of a song, or of its last. */
function barOf({ beats, bars }: SongView, last: boolean): number {
  const at = last ? Math.max(0, bars.length - 2) : 0;
  const [a, b] = [beats[bars[at] ?? 0], beats[bars[at + 1] ?? 0]];
  return a !== undefined && b !== undefined && b > a ? b - a : 2;
}

const rounded = (value: number) => Math.round(value * 100) / 100;

/** Film before the song and after it: pictures and titles lie there, and the song is silent. */
export function Around() {
  const { state, rate, operate } = useProject();
  const edit = useEdit();
  const [unit, setUnit] = useState<Unit>("seconds");
  const { song } = state;
  if (!edit || !song) return null;
  const field = (part: "lead" | "tail", words: string) => {
    const bar = unit === "bars" ? barOf(song, part === "tail") : 1;
    const length = (value: number) =>
      unit === "bars" ? { value, unit: "bars" as const } : { value: Math.round(value * rate), unit: "frames" as const };
    return (
      <NumberField
        value={rounded(edit[part] / rate / bar)}
        {...within("around_s", 1 / bar)}
        step={unit === "bars" ? 1 : 0.5}
        suffix={unit === "bars" ? "bars" : "s"}
        change={(value) => void operate({ op: "surround", [part]: length(value) })}
        aria-label={words}
        data-testid={`around-${part}`}
        style={{ width: 96 }}
      />
    );
  };
  return (
    <>
      <h3>Before and after the song</h3>
      <div className="fields" style={{ display: "flex", gap: 8, alignItems: "center", flexWrap: "wrap" }}>
        <span className="soft">lead-in</span>
        {field("lead", "Lead-in before the song")}
        <span className="soft">tail</span>
        {field("tail", "Tail after the song")}
        <Segmented
          size="small"
          value={unit}
          onChange={setUnit}
          options={[
            { value: "seconds" as const, label: "seconds" },
            { value: "bars" as const, label: "bars" },
          ]}
        />
      </div>
    </>
  );
}
