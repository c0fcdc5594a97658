import { create } from "zustand";

const useTold = create<{ words: string; times: number }>(() => ({ words: "", times: 0 }));

/** Tell whoever listens to the page what was done, in the words of what did it. */
export function tell(words: string | null | undefined): void {
  if (words) useTold.setState(({ times }) => ({ words, times: times + 1 }));
}

/** What was told last, for screen readers; the same words told again are another text. */
export function Told() {
  const { words, times } = useTold();
  return (
    <p className="heard-only" role="status" data-testid="told">
      {words}
      {times % 2 ? "\u00a0" : ""}
    </p>
  );
}
