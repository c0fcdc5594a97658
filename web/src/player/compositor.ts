/** Laying pictures over each other on a canvas: the page's one place for it, as the core's renderer does in the film. */

import { type Act, PLAIN } from "./chain";
import { type Painter, painter } from "./painter";
import { coloured, hasColours, withoutColours } from "./quick";
import { STEPS } from "./steps";
import { cutOut } from "./steps/matte";

type Paper = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D;

type Box = [x: number, y: number, width: number, height: number];

/** One picture of a stack: an image of its own size, a card of words, a colour, or black where none is given. */
export interface Part {
  acts: readonly Act[];
  image?: CanvasImageSource;
  size?: [width: number, height: number];
  crop?: Box;
  /** Where in the image its alpha lies, as grey. */
  matte?: Box;
  /** Words: the part of the frame that they cover, at the size of the canvas, and where it lies. */
  card?: { of: CanvasImageSource; left: number; top: number };
  colour?: string;
  /** The frame after the image, and how much of it is mixed in. */
  next?: CanvasImageSource;
  share?: number;
}

/** Steps that a 2-D canvas does by itself: quicker than going by way of the graphics processor and back. */
const FLAT: ReadonlySet<string> = new Set(["place", "opacity"]);

/** The largest rectangle of a shape inside a frame: x, y, width, height. */
export function fitted(width: number, height: number, across: number, up: number): [number, number, number, number] {
  const scale = Math.min(across / width, up / height);
  const [w, h] = [width * scale, height * scale];
  return [(across - w) / 2, (up - h) / 2, w, h];
}

/** Steps of a stack that need WebGL2, by name. */
export function deepSteps(parts: readonly Pick<Part, "acts">[]): string[] {
  return [...new Set(parts.flatMap((p) => p.acts.map((a) => a.step)).filter((step) => !FLAT.has(step)))];
}

/**
 * Draw parts over each other on black, the first undermost. Returns the steps that were left out, since there is no WebGL2.
 * Where `quick` is not 0 and the painter is made by software, colours are looked up on the processor, at that share of the size.
 */
export function compose(
  paper: Paper,
  width: number,
  height: number,
  all: readonly Part[],
  quick = 0,
  paints: () => Painter | null = painter,
): string[] {
  const without = all.some((p) => hasColours(p.acts)) && isWithout(all, quick > 0, paints());
  const parts = without ? all.map((part, n) => quickly(part, width, height, n, quick || 1)) : all;
  const deep = deepSteps(parts);
  const painting = deep.length ? paints() : null;
  if (painting) {
    paint(painting, width, height, parts);
    painting.show(paper);
    return [];
  }
  if (parts[0]?.acts !== PLAIN) {
    paper.fillStyle = "#000";
    paper.fillRect(0, 0, width, height);
  }
  for (const part of parts) lay(paper, width, height, part);
  return deep;
}

/** True where colours go without the painter: there is none, or it is slow and has nothing else to do. */
function isWithout(parts: readonly Part[], quick: boolean, painting: Painter | null): boolean {
  if (!painting) return true;
  const others = deepSteps(parts.map((p) => ({ acts: withoutColours(p.acts) })));
  return quick && painting.slow && !others.length && parts.every((p) => !p.matte);
}

/** A part whose steps of colour are done: a picture of the frame's size, whose other steps are still to act. */
function quickly(part: Part, width: number, height: number, nth: number, share: number): Part {
  const [w, h] = [Math.ceil(width * share), Math.ceil(height * share)];
  const done = coloured(part.acts, [w, h], nth, (sheet) => {
    sheet.setTransform(w / width, 0, 0, h / height, 0, 0);
    draw(sheet, width, height, part);
    sheet.setTransform(1, 0, 0, 1, 0, 0);
  });
  const acts = withoutColours(part.acts);
  return done ? { acts, image: done, size: [width, height] } : { ...part, acts };
}

/** Draw parts with their chains on the painter's canvas. */
function paint(painting: Painter, width: number, height: number, parts: readonly Part[]): void {
  painting.begin(width, height);
  const pictures = parts.map((part) => {
    // A composite of several pictures is another in each frame.
    const one =
      part.share || (part.crop && !part.matte) ? null : (((part.image ?? part.card) as object | undefined) ?? null);
    const upload = (key: object | null, what: Part) =>
      painting.upload(key, () => {
        const [made, paper] = sheet(width, height);
        draw(paper, width, height, what);
        return made;
      });
    const picture = upload(one, part);
    const cut = part.matte && part.acts.some((a) => a.step === "matte");
    const uploaded = cut ? cutOut(painting, picture, upload(alphaKey(one), { ...part, crop: part.matte })) : picture;
    return part.acts.reduce(
      (picture, { step, values }) => STEPS[step]?.act(painting, picture, values) ?? picture,
      uploaded,
    );
  });
  painting.clear();
  for (const picture of pictures) painting.lay(picture);
}

const alphaKeys = new WeakMap<object, object>();

/** Key under which the alpha of an image is kept beside its colours. */
function alphaKey<T extends object>(image: T | null) {
  if (!image) return null;
  const known = alphaKeys.get(image) ?? {};
  alphaKeys.set(image, known);
  return known;
}

function sheet(width: number, height: number): [OffscreenCanvas, OffscreenCanvasRenderingContext2D] {
  const made = new OffscreenCanvas(width, height);
  return [made, made.getContext("2d") as OffscreenCanvasRenderingContext2D];
}

/** True where a picture's shape leaves bars in the frame. */
function barred(width: number, height: number, part: Part): boolean {
  if (!part.size) return false;
  const [, , w, h] = fitted(...part.size, width, height);
  return w < width - 1 || h < height - 1;
}

/** A part where its chain puts it in the frame, as much of it as that says. */
function lay(paper: Paper, width: number, height: number, part: Part): void {
  const opacity = part.acts.reduce((all, a) => (a.step === "opacity" ? all * (a.values.amount as number) : all), 1);
  if (opacity <= 0) return;
  paper.save();
  paper.globalAlpha = Math.min(1, opacity);
  // From the frame inwards: the last that acts is the first on the way to the picture.
  for (const { step, values: v } of [...part.acts].reverse()) {
    if (step !== "place") continue;
    paper.translate((0.5 + (v.x as number)) * width, (0.5 + (v.y as number)) * height);
    paper.rotate(((v.turn as number) * Math.PI) / 180);
    paper.scale(v.mirror ? -(v.scale as number) : (v.scale as number), v.scale as number);
    paper.translate(-width / 2, -height / 2);
  }
  // A composite (a mix of two frames, a picture and its bars) is made before it is laid over anything.
  if (opacity < 1 && (part.share || barred(width, height, part))) {
    const [made, several] = sheet(width, height);
    draw(several, width, height, part);
    paper.drawImage(made, 0, 0);
  } else draw(paper, width, height, part);
  paper.restore();
}

function draw(paper: Paper, width: number, height: number, part: Part): void {
  if (part.card) {
    paper.drawImage(part.card.of, part.card.left, part.card.top);
    return;
  }
  if (part.colour) {
    paper.fillStyle = part.colour;
    paper.fillRect(0, 0, width, height);
    return;
  }
  const [x, y, w, h] = part.size ? fitted(...part.size, width, height) : [0, 0, 0, 0];
  if (!part.size || barred(width, height, part)) {
    paper.fillStyle = "#000";
    paper.fillRect(0, 0, width, height);
  }
  if (!part.image) return;
  if (part.crop) paper.drawImage(part.image, ...part.crop, x, y, w, h);
  else paper.drawImage(part.image, x, y, w, h);
  if (part.next && part.share) {
    paper.globalAlpha *= part.share;
    paper.drawImage(part.next, x, y, w, h);
  }
}
