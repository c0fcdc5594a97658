import { expect, it } from "vitest";

const files = import.meta.glob<string>(["./**/*.{ts,tsx}", "!./**/*.test.ts", "!./api/schema.d.ts"], {
  query: "?raw",
  import: "default",
  eager: true,
});

/** Imports of a file among ours, types left out: they are gone once it runs. */
function importsOf(path: string): string[] {
  const folder = path.split("/").slice(0, -1);
  const found = files[path]?.matchAll(/^(?:import|export) (?!type )[^;]*?from "(\.[^"]+)";/gm) ?? [];
  return [...found].flatMap(([, to = ""]) => {
    const parts = [...folder];
    for (const step of to.split("/")) {
      if (step === "..") parts.pop();
      else if (step !== ".") parts.push(step);
    }
    const name = parts.join("/");
    return [name, `${name}.ts`, `${name}.tsx`].filter((n) => n in files);
  });
}

it("no file of the page imports itself by a detour", () => {
  const waiting = new Set(Object.keys(files));
  expect(waiting.size).toBeGreaterThan(40);
  for (;;) {
    const free = [...waiting].filter((f) => !importsOf(f).some((to) => waiting.has(to)));
    if (!free.length) break;
    for (const f of free) waiting.delete(f);
  }
  expect([...waiting].sort()).toEqual([]);
});
