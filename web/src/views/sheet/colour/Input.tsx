import { Button, Select } from "antd";
import { useRef, useState } from "react";
import { api, data, type MediaView } from "../../../api/client";
import { GRADE, LOGS } from "../../../api/facts";
import { useProject } from "../../../api/project";
import { type KeptTable, useTables } from "../../../api/tables";
import { type CubeAsker, CubeFile } from "../../../parts/CubeFile";
import { NumberField } from "../../../parts/NumberField";
import { TextButton } from "../../../parts/TextButton";
import { classes } from "../../../parts/classes";
import styles from "./Colour.module.css";
import { Flat } from "./Flat";
import { inRange } from "./grade";

const cx = classes(styles);
const STRENGTH = GRADE.strength ?? [0, 1];

const CURVE = { kind: "curve", slope: LOGS.slope, offset: LOGS.offset } as const;
const NAMES = { acescct: "ACEScct", "film scan": "film scan, log of ten bits", "plain log": "a plain log…" } as const;

interface ConstantProps {
  name: string;
  value: number;
  limits: [number, number];
  change: (value: number) => void;
}

function Constant({ name, value, limits, change }: ConstantProps) {
  return (
    <NumberField
      value={value}
      min={limits[0]}
      max={limits[1]}
      step={0.005}
      controls={false}
      change={change}
      aria-label={`${name} of the log`}
    />
  );
}

/** Input: the camera's table of colours, in which a file is looked up before anything else is done to it. */
export function Input({ file }: { file: MediaView | undefined }) {
  const { id, state, act } = useProject();
  const { known, bring: keep } = useTables();
  const asker = useRef<CubeAsker>(null);
  const [trouble, setTrouble] = useState("");
  const [plain, setPlain] = useState<[slope: number, offset: number] | null>(null);
  if (!file)
    return (
      <section className={cx("paper")} aria-label="Input">
        <h3>Input</h3>
        <p className="soft">There is no file here.</p>
      </section>
    );
  const { number, share } = file.table;
  const alike = state.media.filter((m) => m.camera && m.camera === file.camera && m.id !== file.id);
  const give = async (to: number, strength: number, files: readonly MediaView[] = [file]) => {
    setTrouble("");
    for (const one of files) {
      const params = { path: { project_id: id, media_id: one.id } };
      const body = { number: to, share: strength };
      await act(() => data(api.PUT("/api/v1/projects/{project_id}/media/{media_id}/table", { params, body })));
    }
  };
  const bring = async (body: KeptTable) => {
    try {
      const kept = await keep(body);
      setPlain(null);
      await give(kept.number, 1);
    } catch (fault) {
      setTrouble(fault instanceof Error ? fault.message : String(fault));
    }
  };
  return (
    <section className={cx("paper")} aria-label="Input">
      <h3>Input</h3>
      <span className={cx("file")} title={file.name}>
        {file.camera ? `${file.camera} · ` : ""}
        {file.name}
      </span>
      <Flat file={file} />
      <div className={cx("look")}>
        <Select
          size="small"
          value={number}
          popupMatchSelectWidth={false}
          aria-label="Table of colours"
          data-testid="input-table"
          onChange={(to) => {
            const curve = LOGS.curves[-2 - to];
            if (to === -1) asker.current?.ask();
            else if (curve === "plain log") setPlain([LOGS.slope, LOGS.offset]);
            else if (curve) void bring({ ...CURVE, curve });
            else void give(to, 1);
          }}
          options={[
            { value: 0, label: "as its tags say" },
            ...known.map((t) => ({ value: t.number, label: t.name })),
            ...(number && !known.some((t) => t.number === number)
              ? [{ value: number, label: "a table that is gone" }]
              : []),
            { value: -1, label: "choose a .cube…" },
            ...LOGS.curves.map((curve, n) => ({ value: -2 - n, label: NAMES[curve] })),
          ]}
        />
        {number > 0 && (
          <NumberField
            value={Math.round(100 * share)}
            min={100 * STRENGTH[0]}
            max={100 * STRENGTH[1]}
            step={5}
            suffix="%"
            change={(v) => void give(number, inRange("strength", v / 100))}
            aria-label="How much of the table"
          />
        )}
      </div>
      <CubeFile ref={asker} chosen={(table) => give(table.number, 1)} testId="input-file" />
      {plain && (
        <div className={cx("look")}>
          coded ={" "}
          <Constant name="slope" value={plain[0]} limits={LOGS.slopes} change={(v) => setPlain([v, plain[1]])} /> × log2
          of light +{" "}
          <Constant name="offset" value={plain[1]} limits={LOGS.offsets} change={(v) => setPlain([plain[0], v])} />
          <Button
            size="small"
            onClick={() => void bring({ kind: "curve", curve: "plain log", slope: plain[0], offset: plain[1] })}
          >
            Use it
          </Button>
        </div>
      )}
      {number > 0 && alike.some((m) => m.table.number !== number || m.table.share !== share) && (
        <TextButton onClick={() => void give(number, share, alike)} data-testid="input-camera">
          all of {file.camera}
        </TextButton>
      )}
      {trouble && (
        <p className="bad" role="alert">
          {trouble}
        </p>
      )}
    </section>
  );
}
