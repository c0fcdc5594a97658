import { useEffect, useRef } from "react";
import { kept } from "./kept";

/** Does what a command does; returns false where it does not want the key after all. Without an event it was chosen by its words. */
type Run = (event?: KeyboardEvent) => unknown;

/** Something that can be done here, by a key or by its words. */
export interface Command {
  /** Names of its keys, with spaces between them; none where it is only found by its words. */
  keys: string;
  words: string;
  run: Run;
  /** Its keys are a row of digits, each of which does another thing: it is not done by its words alone. */
  row?: boolean;
  /** Selector of focused controls that leave it their own keys (Enter, Space, arrows). */
  over?: string;
}

/** Commands of one part of the page while it is shown. */
export interface Place {
  where: string;
  commands: readonly Command[];
}

const OWN = "zembi keys";
const shown = new Set<{ current: Place }>();

/** Keys chosen by the person, by the words of their command. */
export function ownKeys(): Readonly<Record<string, string>> {
  return kept(OWN, {});
}

/** The keys of a command: the person's own, or those it comes with. */
export function keysOf(command: Command): readonly string[] {
  const keys = ownKeys()[command.words] ?? command.keys;
  return keys ? keys.split(" ") : [];
}

/** Give a command another key; without one it gets back those it comes with. */
export function changeKey(command: Command, key: string | null): void {
  const { [command.words]: _, ...others } = ownKeys();
  localStorage.setItem(OWN, JSON.stringify(key === null ? others : { ...others, [command.words]: key }));
}

/** Everything that can be done here and now, part by part of the page. */
export function placesNow(): readonly Place[] {
  return [...shown].map((place) => place.current).filter((place) => place.commands.length);
}

/** Name of a key press: "Shift+ArrowLeft", "Ctrl+z", "1". */
export function keyName(event: KeyboardEvent): string {
  const letter = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  const key = letter === " " ? "Space" : letter;
  const shift = event.shiftKey && (event.key.length > 1 || /[a-z]/i.test(event.key)) ? "Shift+" : "";
  return `${event.ctrlKey || event.metaKey ? "Ctrl+" : ""}${event.altKey ? "Alt+" : ""}${shift}${key}`;
}

const SIGNS: Record<string, string> = { ArrowLeft: "←", ArrowRight: "→", ArrowUp: "↑", ArrowDown: "↓", Space: "space" };

/** A key as it is shown: "Shift+←", "Ctrl+Z". */
export function keyShown(name: string): string {
  const parts = name.split(/\+(?=.)/);
  const last = parts.pop() as string;
  return [...parts, SIGNS[last] ?? (last.length === 1 ? last.toUpperCase() : last)].join("+");
}

function typing(target: Element | null): boolean {
  return Boolean(
    target?.closest(
      "input:not([type=radio], [type=checkbox]), textarea, select, [contenteditable=true], .ant-modal, .ant-popover",
    ),
  );
}

/** Whether a key or the pointer was used last, and whether what has the focus was reached by a key. */
let last: "key" | "pointer" = "pointer";
let reached = false;
if (typeof window !== "undefined") {
  window.addEventListener("keydown", () => (last = "key"), true);
  window.addEventListener("pointerdown", () => (last = "pointer"), true);
  window.addEventListener("focusin", () => (reached = last === "key"), true);
}

/** Whether what has the focus was reached by a key: one that was clicked leaves its keys to what is around it. */
export const reachedByKey = (): boolean => reached;

const PRESSED = "button, a[href], summary, [role=button], [role=tab], [role=switch], [role=option], [role=menuitem]";
const WALKED = "[role=radiogroup], .ant-slider, [role=tablist], [role=menu], [role=listbox]";

/**
 * True for keys that a control which was reached by the keyboard needs itself: Space and Enter press it, arrows walk in it.
 * One that was clicked leaves its keys to what is around it, so that Space goes on to play.
 */
function needed(event: KeyboardEvent, over: string | undefined): boolean {
  const target = event.target as Element | null;
  if (!target || !reached || (over && target.closest(over))) return false;
  if (event.ctrlKey || event.metaKey || event.altKey) return false;
  if (event.key === " " || event.key === "Enter") return Boolean(target.closest(PRESSED));
  return /^(Arrow|Home|End|Page)/.test(event.key) && Boolean(target.closest(WALKED));
}

/**
 * Offer commands while mounted, by their keys and in the list of what can be done here; nothing happens while the person
 * types in a field. With ``first`` their keys are asked before those of what is around, which get what they return false for.
 */
export function useCommandKeys(where: string, commands: readonly Command[], first = false): void {
  const latest = useRef<Place>({ where, commands });
  useEffect(() => {
    latest.current = { where, commands };
  });
  useEffect(() => {
    shown.add(latest);
    const listen = (event: KeyboardEvent) => {
      if (typing(event.target as Element | null)) return;
      const name = keyName(event);
      const command = latest.current.commands.find((c) => keysOf(c).includes(name));
      if (!command || needed(event, command.over) || command.run(event) === false) return;
      event.preventDefault();
      if (first) event.stopImmediatePropagation();
    };
    window.addEventListener("keydown", listen, first);
    return () => {
      shown.delete(latest);
      window.removeEventListener("keydown", listen, first);
    };
  }, [first]);
}

/** Digits as keys of one command. */
export const DIGITS = "1 2 3 4 5 6 7 8 9";
