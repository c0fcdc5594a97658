import { expect, test } from "vitest";
import { ordered } from "./ordered";

const after = <T>(ms: number, value: T): Promise<T> => new Promise((done) => setTimeout(() => done(value), ms));

test("a slow answer never comes after a later one", async () => {
  const inTurn = ordered();
  const shown: number[] = [];
  await Promise.all([30, 1, 10].map((ms, n) => inTurn(() => after(ms, n)).then((v) => shown.push(v))));
  expect(shown).toEqual([0, 1, 2]);
});

test("work begins only when what was asked before has ended", async () => {
  const inTurn = ordered();
  let running = 0;
  let most = 0;
  const work = async () => {
    most = Math.max(most, ++running);
    await after(3, null);
    running--;
  };
  await Promise.all([inTurn(work), inTurn(work), inTurn(work)]);
  expect(most).toBe(1);
});

test("what fails says so and does not hold up what follows", async () => {
  const inTurn = ordered();
  const refused = inTurn(() => Promise.reject(new Error("No.")));
  const next = inTurn(() => after(1, "done"));
  await expect(refused).rejects.toThrow("No.");
  expect(await next).toBe("done");
});
