import { Popover, Slider, Switch } from "antd";
import { clock, useClock } from "../player/clock";
import { classes } from "./classes";
import styles from "./Listening.module.css";

const cx = classes(styles);

/** How loud the song is heard and whether the beat clicks, at hand on every view. The film has its own level. */
export function Listening() {
  const gain = useClock((c) => c.gain);
  const click = useClock((c) => c.click);
  return (
    <Popover
      trigger="click"
      placement="bottomLeft"
      content={
        <div className={cx("listening")} data-testid="listening">
          <span>Listening</span>
          <Slider
            min={0}
            max={1}
            step={0.01}
            value={gain}
            onChange={(v) => clock.setGain(v)}
            tooltip={{ formatter: decibels }}
            ariaLabelForHandle="How loud the song is heard"
          />
          <span>{decibels(gain)}</span>
          <span>Click on the beat</span>
          <Switch size="small" checked={click} onChange={(on) => clock.setClick(on)} aria-label="Click on the beat" />
        </div>
      }
    >
      <button
        type="button"
        className={cx("ear")}
        aria-label="How the song is heard"
        title="How loud you hear the song, and the click; the film has its own level"
        data-testid="hear"
      >
        {click ? "♪ ·" : "♪"}
      </button>
    </Popover>
  );
}

function decibels(gain: number | undefined): string {
  return gain ? `${(20 * Math.log10(gain)).toFixed(0)} dB` : "silent";
}
