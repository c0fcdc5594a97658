/** Class names of a component: its own from its style sheets, all others (shared words and states) as they are. */
export function classes(...sheets: readonly Readonly<Record<string, string>>[]): (names: string) => string {
  return (names) =>
    names
      .split(" ")
      .map((name) => sheets.find((sheet) => sheet[name])?.[name] ?? name)
      .join(" ");
}
