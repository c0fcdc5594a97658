import { useEffect, useRef } from "react";

/** Returns false for a key that it does not want after all. */
type Handler = (event: KeyboardEvent) => unknown;

/** Name of a key press: "Shift+ArrowLeft", "Ctrl+z", "1". */
export function keyName(event: KeyboardEvent): string {
  const letter = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  const key = letter === " " ? "Space" : letter;
  const shift = event.shiftKey && (event.key.length > 1 || /[a-z]/i.test(event.key)) ? "Shift+" : "";
  return `${event.ctrlKey || event.metaKey ? "Ctrl+" : ""}${event.altKey ? "Alt+" : ""}${shift}${key}`;
}

function typing(target: EventTarget | null): boolean {
  const element = target as HTMLElement | null;
  return Boolean(
    element?.closest(
      "input:not([type=radio], [type=checkbox]), textarea, select, [contenteditable=true], .ant-modal, .ant-popover",
    ),
  );
}

/**
 * Listen to keys while mounted; nothing happens while the person types in a field.
 * With ``first`` these keys are asked before those of what is around them, which get what they return false for.
 */
export function useKeys(keys: Record<string, Handler>, first = false): void {
  const latest = useRef(keys);
  latest.current = keys;
  useEffect(() => {
    const listen = (event: KeyboardEvent) => {
      if (typing(event.target)) return;
      const handler = latest.current[keyName(event)];
      if (!handler || handler(event) === false) return;
      event.preventDefault();
      if (first) event.stopImmediatePropagation();
    };
    window.addEventListener("keydown", listen, first);
    return () => window.removeEventListener("keydown", listen, first);
  }, [first]);
}

export const KEY_HELP: [string, string][] = [
  ["space", "play or pause"],
  ["J K L", "shuttle back, stop, forward"],
  ["← →", "one frame"],
  ["Shift+← →", "one beat"],
  ["↑ ↓", "one phrase"],
  ["1 to 9", "switch to an angle (paused: give it to the selected shot)"],
  ["/", "cut here"],
  ["\\", "join: take away the selected cut"],
  ["N, P", "next, previous cut"],
  ["Ctrl+← →", "next, previous place of what cuts fall on"],
  ["W", "go to a bar, a time, a mark or a section that is typed"],
  ["Alt+← →", "move the selected cut by a frame"],
  ["Alt+Shift+← →", "move the selected cut by a beat"],
  ["[ ]", "slip the picture of a shot or cutaway by a frame; with Shift by a beat, with Alt by a second"],
  ["G", "play over the nearest cut, again and again"],
  ["F", "the programme full screen"],
  ["H", "hold a shot, or let it go"],
  ["E", "treatments of the shot or cutaway at the playhead"],
  ["Backspace", "switching live: take back the last"],
  ["B, Shift+B, Alt+B", "lay the chosen clip over, into the slot or shot, after what is cut"],
  ["U, Shift+U, Alt+U", "lay it until the next place, in its own length, in front of what comes"],
  ["M", "mark a moment of the clip that is looked at"],
  ["I, O", "loop in and out; in and out of a clip that is looked at"],
  ["Enter", "open the chosen clip on the bench; keep a select; Coverage: choose a cell, play its passes"],
  ["← → ↑ ↓", "Coverage: walk the cells; frames and other clips of what is looked at"],
  ["C, X", "Coverage: circle, reject a pass"],
  ["0 to 5", "rate the clip that is looked at"],
  ["T", "tap: a mark, or the line of lyrics or tempo being tapped"],
  ["R", "time the last line of lyrics again"],
  ["+ −", "zoom the song, down to samples"],
  ["Delete", "take off the selected cutaway or mark"],
  ["Ctrl+Z, Ctrl+Shift+Z", "undo, redo"],
  ["?", "these keys"],
];
