import { Segmented } from "antd";
import { useState } from "react";
import { classes } from "../../../parts/classes";
import { TextButton } from "../../../parts/TextButton";
import styles from "./Colour.module.css";
import { Controls } from "./Controls";
import { Curves } from "./Curves";
import { changed, type Values } from "./grade";
import { cubeOf } from "./Looks";

const cx = classes(styles);

/** What a grade is for: the shot, all shots of its angle in this edit, or its file wherever it is seen. */
export type Of = "shot" | "angle" | "file";

interface Props {
  of: Of;
  setOf: (of: Of) => void;
  /** Shots of the angle in this edit. */
  alike: number;
  /** True where a file is seen, and where a shot is. */
  file: boolean;
  shot: boolean;
  values: Values;
  write: (values: Values) => Promise<unknown>;
  /** Shown while it is dragged; null once it is let go without a change. */
  preview: (values: Values | null) => void;
}

/** Balance: the controls and curves of a shot, its angle or its file. */
export function Balance({ of, setOf, alike, file, shot, values, write, preview }: Props) {
  const [bends, setBends] = useState(false);
  return (
    <section className={cx("paper wide")} aria-label="Balance">
      <div className={cx("head")}>
        <h3>Balance</h3>
        <Segmented
          size="small"
          value={of}
          onChange={setOf}
          options={[
            { value: "shot", label: "this shot" },
            {
              value: "angle",
              label: "its angle",
              title: `${alike} shots of this angle in this edit`,
              disabled: alike < 2,
            },
            { value: "file", label: "its file", title: "The file, wherever it is seen", disabled: !file },
          ]}
          data-testid="balance-of"
        />
        <Segmented
          size="small"
          value={bends}
          onChange={setBends}
          options={[
            { value: false, label: "controls" },
            { value: true, label: "curves" },
          ]}
          data-testid="bends"
        />
        <span className="grow" />
        {Object.keys(changed(values)).length > 0 && (
          <>
            <TextButton href={cubeOf(changed(values))} download>
              as .cube
            </TextButton>
            <TextButton onClick={() => void write({})} data-testid="to-rest">
              all to rest
            </TextButton>
          </>
        )}
      </div>
      {shot && bends ? (
        <Curves
          values={values}
          change={(next) => write({ ...values, ...next })}
          preview={(next) => preview(next && { ...values, ...next })}
        />
      ) : shot ? (
        <Controls
          values={values}
          change={(name, value) => write({ ...values, [name]: value })}
          preview={(name, value) => preview(value === null ? null : { ...values, [name]: value })}
        />
      ) : (
        <p className="soft">There is no shot here.</p>
      )}
    </section>
  );
}
