import { useEffect, useEffectEvent, useRef, useState } from "react";
import type { ItemView } from "../../../api/client";
import { useProject, useEdit } from "../../../api/project";
import { useTrial } from "../treating/useTrial";
import { type Full, full, setCard } from "./card";

/** Milliseconds after the last change of a card by its letters at which it is written: one step of undo for a run of them. */
const REST_MS = 700;

/** A title's card while it is worked on: seen in the programme at every change, written once the hand rests. */
export function useCard(item: ItemView) {
  const { operate, ahead } = useProject();
  const edit = useEdit();
  const { preview } = useTrial(ahead, edit);
  const written = full(item.source.card as Full);
  const [draft, setDraft] = useState<Full | null>(null);
  const rest = useRef<{ timer: number; card: Full } | null>(null);
  const write = useEffectEvent((card: Full) => {
    if (rest.current) window.clearTimeout(rest.current.timer);
    rest.current = null;
    if (JSON.stringify(card) === JSON.stringify(written)) {
      setDraft(null);
      preview(null);
      return;
    }
    void operate(setCard(item.id, card)).then((after) => {
      if (!after) preview(null);
      if (!rest.current) setDraft(null);
    });
  });
  // Leaving does not lose what was typed last.
  useEffect(
    () => () => {
      if (rest.current) write(rest.current.card);
    },
    [],
  );
  /** See a card without writing it. */
  const see = (card: Full | null) => {
    setDraft(card);
    preview(card && setCard(item.id, card));
  };
  /** Change the card at once. */
  const change = (more: Partial<Full>) => {
    const card = { ...(draft ?? written), ...more };
    setDraft(card);
    write(card);
  };
  /** Change it letter by letter. */
  const type = (more: Partial<Full>) => {
    const card = { ...(draft ?? written), ...more };
    see(card);
    if (rest.current) window.clearTimeout(rest.current.timer);
    rest.current = { card, timer: window.setTimeout(() => write(card), REST_MS) };
  };
  /** Write what was typed, now. */
  const done = () => rest.current && write(rest.current.card);
  return { card: draft ?? written, change, type, see, done };
}
