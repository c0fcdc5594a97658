import { create } from "zustand";

interface Choice {
  /** First frame of the selected shot or cutaway. */
  shot: number | null;
  cutaway: number | null;
  clip: string | null;
  /** The select of the chosen clip, where one was chosen. */
  select: number | null;
}

/** What is selected on the sheet. */
export const useChoice = create<Choice>(() => ({ shot: null, cutaway: null, clip: null, select: null }));
