import { Input, type InputRef, Modal } from "antd";
import { useCallback, useMemo, useRef, useState } from "react";
import { changeKey, type Command, keyName, keyShown, keysOf, ownKeys, placesNow } from "./keys";
import styles from "./CommandList.module.css";
import { classes } from "./classes";
import { TextButton } from "./TextButton";

const cx = classes(styles);

interface Listed extends Command {
  where: string;
}

/** Commands that hold every word that was typed, in their words, their place or their keys. */
export function matching(commands: readonly Listed[], typed: string): readonly Listed[] {
  const asked = typed.toLowerCase().split(/\s+/).filter(Boolean);
  return commands.filter((c) => {
    const text = `${c.where} ${c.words} ${keysOf(c).map(keyShown).join(" ")}`.toLowerCase();
    return asked.every((word) => text.includes(word));
  });
}

/** Everything that can be done here and now: found by its words, done by Enter, its keys told and changed. */
export function CommandList({ open, close }: { open: boolean; close: () => void }) {
  const after = useRef<(() => unknown) | null>(null);
  const field = useRef<InputRef>(null);
  // What was chosen is done once the list is gone and the focus is back where it was.
  const choose = useCallback(
    (command: Command) => {
      after.current = () => command.run();
      close();
    },
    [close],
  );
  const done = () => {
    after.current?.();
    after.current = null;
  };
  return (
    <Modal
      title="What can be done here"
      open={open}
      onCancel={close}
      afterClose={done}
      // The window would give the focus to its cross.
      afterOpenChange={(shown) => shown && field.current?.focus()}
      footer={null}
      width={620}
      destroyOnHidden
    >
      <Found choose={choose} field={field} />
    </Modal>
  );
}

function Found({ choose, field }: { choose: (command: Command) => void; field: React.RefObject<InputRef | null> }) {
  const all = useMemo(() => placesNow().flatMap((p) => p.commands.map((c) => ({ ...c, where: p.where }))), []);
  const places = useMemo(() => [...new Set(all.map((c) => c.where))], [all]);
  const [typed, setTyped] = useState("");
  const [at, setAt] = useState(0);
  const [changing, setChanging] = useState<Listed | null>(null);
  const found = matching(all, typed);
  const chosen = found[Math.min(at, found.length - 1)];
  const run = (command: Listed | undefined) => command && !command.row && choose(command);
  const walk = (event: React.KeyboardEvent) => {
    if (event.key === "ArrowDown") setAt(Math.min(found.length - 1, at + 1));
    else if (event.key === "ArrowUp") setAt(Math.max(0, at - 1));
    else if (event.key === "Enter") run(chosen);
    else return;
    event.preventDefault();
  };
  return (
    <>
      <Input
        ref={field}
        value={typed}
        onChange={(e) => {
          setTyped(e.target.value);
          setAt(0);
        }}
        onKeyDown={walk}
        placeholder="Type a few words; Enter does it"
        aria-label="Find what can be done"
        data-testid="find-command"
      />
      <p className="heard-only" role="status">
        {chosen ? `Enter: ${chosen.words}` : "Nothing is called so"}
      </p>
      <div className={cx("list")}>
        {places.map((where) => {
          const here = found.filter((c) => c.where === where);
          if (!here.length) return null;
          return (
            <div key={where} role="group" aria-label={where}>
              <h3 className={cx("where")}>{where}</h3>
              {here.map((command) => (
                <Row
                  key={command.words}
                  command={command}
                  on={command === chosen}
                  run={() => run(command)}
                  change={() => setChanging(command)}
                />
              ))}
            </div>
          );
        })}
        {!found.length && <p className="soft">Nothing that can be done here is called so.</p>}
      </div>
      {changing && <NewKey command={changing} all={all} done={() => setChanging(null)} />}
    </>
  );
}

function Row({ command, on, run, change }: { command: Listed; on: boolean; run: () => void; change: () => void }) {
  const row = (element: HTMLDivElement | null) => {
    if (on) element?.scrollIntoView({ block: "nearest" });
  };
  return (
    <div ref={row} className={cx(on ? "row on" : "row")}>
      <button type="button" className={cx("run")} onClick={run} disabled={command.row} data-testid="command">
        <span>{command.words}</span>
        <span className={cx("keys")}>
          {keysOf(command)
            .slice(0, 9)
            .map((key) => (
              <kbd key={key}>{keyShown(key)}</kbd>
            ))}
        </span>
      </button>
      {!command.row && (
        <TextButton
          onClick={change}
          aria-label={`${command.words in ownKeys() ? "yours" : "change"}, the key of: ${command.words}`}
          data-testid="change-key"
        >
          {command.words in ownKeys() ? "yours" : "change"}
        </TextButton>
      )}
    </div>
  );
}

/** Takes the next key that is pressed for a command; says whose it is already. */
function NewKey({ command, all, done }: { command: Listed; all: readonly Listed[]; done: () => void }) {
  const [key, setKey] = useState<string | null>(null);
  const taken = key === null ? undefined : all.find((c) => c.words !== command.words && keysOf(c).includes(key));
  const press = (event: React.KeyboardEvent) => {
    if (["Shift", "Control", "Alt", "Meta", "Tab"].includes(event.key)) return;
    event.preventDefault();
    event.stopPropagation();
    setKey(keyName(event.nativeEvent));
  };
  const keep = (chosen: string | null) => {
    changeKey(command, chosen);
    done();
  };
  return (
    <Modal
      title={command.words}
      open
      onCancel={done}
      width={420}
      okText="Keep this key"
      okButtonProps={{ disabled: key === null }}
      onOk={() => keep(key)}
      footer={(_, { OkBtn, CancelBtn }) => (
        <>
          {command.words in ownKeys() && (
            <TextButton onClick={() => keep(null)} data-testid="own-key-back">
              the key it came with
            </TextButton>
          )}
          <CancelBtn />
          <OkBtn />
        </>
      )}
    >
      <Input
        autoFocus
        readOnly
        value={key === null ? "" : keyShown(key)}
        placeholder="Press the key"
        onKeyDown={press}
        aria-label={`New key for: ${command.words}`}
        data-testid="new-key"
      />
      {taken && <p className="soft">Now it is the key of “{taken.words}”; what is nearer gets it first.</p>}
    </Modal>
  );
}
