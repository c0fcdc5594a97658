import { expect, it } from "vitest";
import { useChosen } from "../views/coverage/useCells";
import { useChoice } from "../views/sheet/choice";
import { useCarried } from "./broll/carrying";
import { useLooking } from "./broll/looking";
import { endProject } from "./ending";

it("leaves nothing of one project chosen in the next", () => {
  const stores = [useChoice, useChosen, useCarried, useLooking] as const;
  const first = stores.map((s) => ({ ...s.getState() }));
  useChoice.setState({ clip: "m1", select: 4, shot: 7, item: 9, layout: "live", bench: true });
  useChosen.setState({ pass: 3 });
  useCarried.setState({ clip: { media: "m1", select: null } as never });
  useLooking.setState({ clip: "m2" });
  endProject();
  expect(stores.map((s) => ({ ...s.getState() }))).toEqual(first);
});
