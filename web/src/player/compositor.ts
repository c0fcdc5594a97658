/** Laying pictures over each other on a canvas: the page's one place for it, as the core's renderer does in the film. */

import { blurred, glowing, grain, type Sheet, sharpened, sheet } from "./effects";
import { AS_IT_IS, type Look } from "./layers";

type Paper = CanvasRenderingContext2D | OffscreenCanvasRenderingContext2D;

/** One picture of a stack: an image of its own size, words, a colour, or black where none is given. */
export interface Part {
  look: Look;
  image?: CanvasImageSource;
  size?: [width: number, height: number];
  crop?: [x: number, y: number, width: number, height: number];
  text?: string;
  colour?: string;
  /** The frame after the image, and how much of it is mixed in. */
  next?: CanvasImageSource;
  share?: number;
}

/** The largest rectangle of a shape inside a frame: x, y, width, height. */
export function fitted(width: number, height: number, across: number, up: number): [number, number, number, number] {
  const scale = Math.min(across / width, up / height);
  const [w, h] = [width * scale, height * scale];
  return [(across - w) / 2, (up - h) / 2, w, h];
}

/** Draw parts over each other on black, the first undermost. */
export function compose(paper: Paper, width: number, height: number, parts: readonly Part[]): void {
  const first = parts[0];
  if (!first || first.look !== AS_IT_IS) {
    paper.fillStyle = "#000";
    paper.fillRect(0, 0, width, height);
  }
  for (const part of parts) {
    const { look } = part;
    if (look.opacity <= 0) continue;
    paper.save();
    paper.globalAlpha = Math.min(1, look.opacity);
    // What is put together of several (a mix of two frames, a picture and its bars) is so before it is laid over anything.
    const several = part.share || barred(width, height, part);
    if (look.vignette || look.grain || look.bars || (several && look.opacity < 1))
      paper.drawImage(framed(width, height, part), 0, 0);
    else lay(paper, width, height, part);
    paper.restore();
  }
}

/** Whether a picture's shape leaves bars in the frame. */
function barred(width: number, height: number, part: Part): boolean {
  if (!part.size) return false;
  const [, , w, h] = fitted(...part.size, width, height);
  return w < width - 1 || h < height - 1;
}

/** A part where its look puts it in the frame. */
function lay(paper: Paper, width: number, height: number, part: Part): void {
  const { look } = part;
  paper.translate(width / 2 + look.x * width, height / 2 + look.y * height);
  paper.rotate((look.turn * Math.PI) / 180);
  paper.scale(look.mirror ? -look.scale : look.scale, look.scale);
  paper.translate(-width / 2, -height / 2);
  const plain = look.lightness === 1 && !look.blur && !look.sharpen && !look.glow;
  if (plain) draw(paper, width, height, part);
  else paper.drawImage(finished(width, height, part), 0, 0);
}

/** A part in its frame, on a sheet of its own: darker towards the corners, under grain, between black bars. */
function framed(width: number, height: number, part: Part): Sheet {
  const { vignette, bars } = part.look;
  const [made, paper] = sheet(width, height);
  paper.save();
  lay(paper, width, height, part);
  paper.restore();
  if (vignette) {
    const far = Math.hypot(width, height) / 2;
    const dark = paper.createRadialGradient(width / 2, height / 2, far / 2, width / 2, height / 2, far);
    dark.addColorStop(0, "rgba(0, 0, 0, 0)");
    dark.addColorStop(1, `rgba(0, 0, 0, ${Math.min(1, vignette)})`);
    paper.globalCompositeOperation = "source-atop";
    paper.fillStyle = dark;
    paper.fillRect(0, 0, width, height);
    paper.globalCompositeOperation = "source-over";
  }
  if (part.look.grain) grain(paper, width, height, part.look.grain, Math.round(part.look.grain_number));
  if (bars) {
    const high = Math.round((height * Math.max(0, 1 - width / height / bars)) / 2);
    const wide = Math.round((width * Math.max(0, 1 - (bars * height) / width)) / 2);
    paper.fillStyle = "#000";
    paper.fillRect(0, 0, width, high);
    paper.fillRect(0, height - high, width, high);
    paper.fillRect(0, 0, wide, height);
    paper.fillRect(width - wide, 0, wide, height);
  }
  return made;
}

function draw(paper: Paper, width: number, height: number, part: Part): void {
  if (part.text !== undefined) {
    words(paper, width, height, part.text);
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

/** A part on a sheet of its own: moved towards black or white, blurred, sharpened, aglow. */
function finished(width: number, height: number, part: Part): Sheet {
  const { lightness, blur, sharpen, glow } = part.look;
  let [made, paper] = sheet(width, height);
  draw(paper, width, height, part);
  if (lightness !== 1) {
    paper.globalCompositeOperation = "source-atop";
    paper.globalAlpha = Math.min(1, Math.abs(1 - lightness));
    paper.fillStyle = lightness < 1 ? "#000" : "#fff";
    paper.fillRect(0, 0, width, height);
  }
  if (blur) made = blurred(made, blur);
  if (sharpen) made = sharpened(made, sharpen);
  return glow ? glowing(made, glow) : made;
}

function words(paper: Paper, width: number, height: number, text: string): void {
  const letters = Math.max(8, Math.round(height / 12));
  paper.fillStyle = "#fff";
  paper.font = `${letters}px sans-serif`;
  paper.textAlign = "center";
  paper.textBaseline = "middle";
  const lines = text.split("\n");
  lines.forEach((line, i) => {
    paper.fillText(line, width / 2, height / 2 + (i - (lines.length - 1) / 2) * letters * 1.25);
  });
}
