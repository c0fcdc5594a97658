import { Button, Checkbox, Input, Popconfirm } from "antd";
import { useState } from "react";
import { VERSIONS } from "../../../api/facts";
import { useVersions, type Version } from "../../../api/versions";
import { classes } from "../../../parts/classes";
import { TextButton } from "../../../parts/TextButton";
import { Compare } from "./Compare";
import styles from "./Versions.module.css";

const cx = classes(styles);

/** Versions of the cut: the one that is worked on, the others, and a new one. */
export function Versions() {
  const versions = useVersions();
  const [against, setAgainst] = useState<Version | null>(null);
  const current = versions.all.find((v) => v.current);
  if (!current) return null;
  return (
    <>
      <h2>Versions</h2>
      <ol className={cx("versions")} data-testid="versions">
        {versions.all.map((v) => (
          <li key={v.id} className={v.current ? cx("current") : undefined} data-testid={`version-${v.id}`}>
            <Facts version={v} />
            <span className={cx("doing")}>
              {!v.current && (
                <>
                  <TextButton onClick={() => void versions.workOn(v.id)} data-testid="work-on">
                    work on it
                  </TextButton>
                  <TextButton onClick={() => setAgainst(v)} data-testid="compare">
                    compare
                  </TextButton>
                </>
              )}
              <Checkbox
                checked={v.locked}
                onChange={(e) => void versions.change(v.id, { locked: e.target.checked })}
                data-testid="lock"
              >
                locked
              </Checkbox>
              {!v.current && !v.locked && (
                <Popconfirm
                  title={`Throw “${v.name}” away? Undo brings it back.`}
                  okText="Throw away"
                  onConfirm={() => void versions.throwAway(v.id)}
                >
                  <TextButton data-testid="throw-away">throw away</TextButton>
                </Popconfirm>
              )}
            </span>
          </li>
        ))}
      </ol>
      <Another of={current} known={versions.all} />
      {against && <Compare here={current} there={against} close={() => setAgainst(null)} />}
    </>
  );
}

/** "2026-11-30 14:05" of a time of the world, by the clock of whoever looks. */
const when = (made: string) =>
  made ? new Date(made).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" }) : "the first";

/** Name and note of a version, which are typed over, and when it was made of which. */
function Facts({ version: v }: { version: Version }) {
  const { change } = useVersions();
  return (
    <>
      <Typed
        key={`name ${v.name}`}
        value={v.name}
        max={VERSIONS.name}
        label={`Name of ${v.name}`}
        write={(name) => change(v.id, { name })}
      />
      <span className="soft">
        {v.shots} shots · {when(v.made)}
        {v.current && " · worked on"}
      </span>
      <Typed
        key={`note ${v.note}`}
        value={v.note}
        max={VERSIONS.note}
        label={`Note on ${v.name}`}
        placeholder="a note"
        write={(note) => change(v.id, { note })}
      />
    </>
  );
}

interface TypedProps {
  value: string;
  max: number;
  label: string;
  placeholder?: string;
  write: (value: string) => Promise<boolean>;
}

/** Words that are written once they are left or entered; Escape takes them back, and so does a refusal. */
function Typed({ value, max, label, placeholder, write }: TypedProps) {
  const [now, setNow] = useState(value);
  const done = async () => {
    if (now.trim() === value) return setNow(value);
    if (!(await write(now))) setNow(value);
  };
  return (
    <Input
      size="small"
      variant="borderless"
      className={cx("typed")}
      value={now}
      maxLength={max}
      placeholder={placeholder}
      aria-label={label}
      onChange={(e) => setNow(e.target.value)}
      onBlur={() => void done()}
      onPressEnter={(e) => e.currentTarget.blur()}
      onKeyDown={(e) => {
        if (e.key === "Escape") setNow(value);
      }}
    />
  );
}

/** A new version of the one that is worked on, which stays as it is. */
function Another({ of, known }: { of: Version; known: readonly Version[] }) {
  const { make } = useVersions();
  const usual = `Edit ${Math.max(...known.map((v) => v.id)) + 1}`;
  const [name, setName] = useState("");
  const [busy, setBusy] = useState(false);
  const done = async () => {
    setBusy(true);
    if (await make(of.id, name.trim() || usual, "")) setName("");
    setBusy(false);
  };
  return (
    <form
      className={cx("another")}
      onSubmit={(e) => {
        e.preventDefault();
        void done();
      }}
    >
      <Input
        size="small"
        value={name}
        maxLength={VERSIONS.name}
        placeholder={usual}
        aria-label="Name of the new version"
        onChange={(e) => setName(e.target.value)}
        data-testid="new-name"
      />
      <Button size="small" htmlType="submit" loading={busy} data-testid="new-version">
        New version of “{of.name}”
      </Button>
    </form>
  );
}
