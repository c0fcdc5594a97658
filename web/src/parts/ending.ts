/** What is chosen in one project is nothing in another: stores that say how they begin again. */
const again = new Set<() => void>();

/** Let a store end with the project that is open. */
export function endsWithProject(begin: () => void): void {
  again.add(begin);
}

/** Bring every such store to where it begins. */
export function endProject(): void {
  for (const begin of again) begin();
}
