import { Button, Modal } from "antd";
import { useEffect, useRef, useState } from "react";
import { clock } from "../../player/clock";
import { keepTapLatency, latencyOf, tapLatency } from "../../player/latency";

const CLICKS = 8;
const BEAT = 0.6;

/** Tap along to eight clicks; the median of how late the taps are is kept for this browser. */
export function Calibrate({ open, close }: { open: boolean; close: () => void }) {
  const [kept, setKept] = useState(tapLatency);
  const [taps, setTaps] = useState(0);
  const [said, setSaid] = useState("");
  const run = useRef<{ times: number[]; now: () => number; taps: number[] } | null>(null);
  const begin = () => {
    run.current = { ...clock.rehearse(CLICKS, BEAT), taps: [] };
    setTaps(0);
    setSaid("Tap T, or the button, with each click.");
    window.setTimeout(
      () => {
        const found = run.current ? latencyOf(run.current.times, run.current.taps) : null;
        run.current = null;
        if (found === null) {
          setSaid("Too few taps fell on a click; try again.");
          return;
        }
        keepTapLatency(found);
        setKept(found);
        setSaid("Kept for this browser.");
      },
      1000 * (CLICKS * BEAT + 0.9),
    );
  };
  const tap = () => {
    if (!run.current) return;
    run.current.taps.push(run.current.now());
    setTaps(run.current.taps.length);
  };
  const latest = useRef(tap);
  latest.current = tap;
  useEffect(() => {
    if (!open) return;
    const listen = (e: KeyboardEvent) => {
      if (e.key.toLowerCase() === "t" && !e.repeat) latest.current();
    };
    window.addEventListener("keydown", listen);
    return () => window.removeEventListener("keydown", listen);
  }, [open]);
  return (
    <Modal title="How late are your taps?" open={open} onCancel={close} footer={null} width={400}>
      <p>
        Eight clicks play; tap along with them. Marks that you tap are moved back by the median. Now{" "}
        <b className="mono">{(1000 * kept).toFixed(0)} ms</b>.
      </p>
      <div className="buttons">
        <Button type="primary" onClick={begin}>
          Play eight clicks
        </Button>
        <Button onPointerDown={tap} disabled={!run.current}>
          Tap ({taps})
        </Button>
        <Button
          onClick={() => {
            keepTapLatency(0);
            setKept(0);
          }}
        >
          Set to 0
        </Button>
      </div>
      <p className="soft">{said}</p>
    </Modal>
  );
}
