/** Receiver of taps (the key T): by default a tap sets a mark; timing lyrics or tapping the tempo take it over. */
export const tapHandler: { current: ((at: number) => void) | null } = { current: null };

/** The set that tapped marks go to; null for the first. */
export const tapSet: { current: number | null } = { current: null };
