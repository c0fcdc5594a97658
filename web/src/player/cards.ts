import type { SpanView } from "../api/client";

/** A card of words, as a span of the programme has it. */
export type Card = NonNullable<SpanView["card"]>;

/** What is seen of it. */
export type Shown = NonNullable<SpanView["shown"]>;

/** Fetch the picture of a card. */
async function image(address: string): Promise<CardImage> {
  const answer = await fetch(address);
  if (!answer.ok) throw new Error(address);
  const [left = 0, top = 0] = (answer.headers.get("card-place") ?? "0 0").split(" ").map(Number);
  return { of: await createImageBitmap(await answer.blob()), left, top };
}

/** Most pictures of cards that are kept. */
const KEPT = 64;

/** Address of the film's picture of a card, or of what is shown of it, scaled to a size; the same has the same address. */
export function cardAddress(project: string, card: Card, width: number, height: number, shown?: Shown | null): string {
  const text = encodeURIComponent(JSON.stringify(card));
  const part = shown ? `&shown=${encodeURIComponent(JSON.stringify(shown))}` : "";
  return `/api/v1/projects/${project}/card.png?width=${width}&height=${height}&card=${text}${part}`;
}

/** The part of the frame that a card covers, and its first column and row. */
export interface CardImage {
  of: ImageBitmap;
  left: number;
  top: number;
}

/** Pictures of cards, fetched once each; a card that cannot be set is null, so that nothing waits for it. */
export class CardPictures {
  private readonly known = new Map<string, CardImage | null | undefined>();

  constructor(private readonly ready: () => void) {}

  /** The picture at an address; undefined while it is still to come. */
  get(address: string): CardImage | null | undefined {
    if (!this.known.has(address)) this.fetch(address);
    const found = this.known.get(address);
    if (found) {
      // Used last, thrown out last.
      this.known.delete(address);
      this.known.set(address, found);
    }
    return found;
  }

  close(): void {
    for (const picture of this.known.values()) picture?.of.close();
    this.known.clear();
  }

  private fetch(address: string): void {
    this.known.set(address, undefined);
    image(address)
      .catch(() => null)
      .then((picture) => {
        this.known.set(address, picture);
        for (const [old, one] of [...this.known].slice(0, Math.max(0, this.known.size - KEPT))) {
          one?.of.close();
          this.known.delete(old);
        }
        this.ready();
      });
  }
}
