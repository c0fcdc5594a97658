/** How the sheets of small stills are laid out that the server makes of each file (media/derive.py). */

export const STILLS_SHEET = "stills.jpg";

/** Size of a tile, how many lie beside each other, and the seconds between two. */
export const STILL = { width: 160, height: 90, columns: 10, every: 0.5 } as const;
