/** Files that were dropped on a place: taken in by the page, and laid there once they can be read. */

import { create } from "zustand";
import { endsWithProject } from "./ending";

interface Taken {
  /** What is done with the first file that the page takes in next; null where it was dropped on no place. */
  lay: ((media: string) => unknown) | null;
  /** A file that is waited for. */
  waiting: { media: string; lay: (media: string) => unknown } | null;
}

export const useTaken = create<Taken>(() => ({ lay: null, waiting: null }));
endsWithProject(() => useTaken.setState(useTaken.getInitialState(), true));

/** Lay the first file that is taken in next. */
export function layOnceTaken(lay: (media: string) => unknown): void {
  useTaken.setState({ lay });
}

/** The page took files in: the first is laid as soon as it is ready. */
export function tookIn(media: readonly string[]): void {
  const { lay } = useTaken.getState();
  const [first] = media;
  useTaken.setState({ lay: null, waiting: lay && first ? { media: first, lay } : null });
}

/** Lay what is waited for where its file is ready; one that cannot be read is waited for no longer. */
export function layWhatIsReady(files: readonly { id: string; state: string; seconds: number }[]): void {
  const { waiting } = useTaken.getState();
  const file = files.find((f) => f.id === waiting?.media);
  if (!waiting || !file || file.state === "new") return;
  useTaken.setState({ waiting: null });
  if (file.state === "ready" && file.seconds > 0) void waiting.lay(file.id);
}
