import { Button } from "antd";
import type { Look } from "./useLook";

/** In, out and moment of a clip that is looked at, and keeping what lies between them. */
export function ClipRange({ look, brief = false }: { look: Look; brief?: boolean }) {
  const { range, moment, select, setIn, setOut, mark, keep } = look;
  return (
    <>
      <span className="mono">
        {range[0].toFixed(2)} to {range[1].toFixed(2)}
        {!brief && `, ${(range[1] - range[0]).toFixed(2)} s`}
      </span>
      <Button size="small" onClick={setIn}>
        In I
      </Button>
      <Button size="small" onClick={setOut}>
        Out O
      </Button>
      <Button size="small" onClick={mark} title="A moment that can be laid on a beat" data-testid="mark-moment">
        {moment === null ? "Moment M" : `${brief ? "" : "Moment "}${moment.toFixed(2)} M`}
      </Button>
      {!select && (
        <Button size="small" type="primary" onClick={() => void keep()} data-testid="keep-select">
          {brief ? "Keep ⏎" : "Keep a select ⏎"}
        </Button>
      )}
    </>
  );
}
