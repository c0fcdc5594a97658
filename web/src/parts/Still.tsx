import type { CSSProperties } from "react";
import { create } from "zustand";
import { derivedUrl, type MediaView } from "../api/client";
import { useAddresses, useProject } from "../api/project";
import { fitted } from "../player/compositor";
import { STILLS } from "../api/facts";
import { kept } from "./kept";

interface Props {
  media: string;
  at: number;
  /** Width of a still of 16:9; those of another shape are as high, or less high where they are wider. */
  width?: number;
  /** As the file lies in the film, in the film's shape; else the file's own picture on a ground of 16:9. */
  inFilm?: boolean;
  children?: React.ReactNode;
}

const KEY = "zembi stills as they will be";

/** Whether stills of files are seen as they will be, through their tables and grades; kept between visits. */
export const useAsWillBe = create<{ on: boolean; set: (on: boolean) => void }>((put) => ({
  on: kept(KEY, false),
  set: (on) => {
    localStorage.setItem(KEY, JSON.stringify(on));
    put({ on });
  },
}));

/** True for a file whose own colours the film changes. */
export const isColoured = (file: MediaView): boolean => file.table.number > 0 || Object.keys(file.grade).length > 0;

/** Address of a file's stills through its table and grade; other colours have another address. */
function gradedSheet(project: string, file: MediaView): string {
  const colours = encodeURIComponent(JSON.stringify([file.made_of, file.prepared, file.table, file.grade]));
  return `/api/v1/projects/${project}/colour/stills/${file.id}?of=${colours}`;
}

/** A small still of a file at a media time. */
export function Still({ media, at, width = 80, inFilm = false, children }: Props) {
  const { state } = useProject();
  const addressOf = useAddresses();
  const file = state.media.find((m) => m.id === media);
  const film: [number, number] | null = inFilm ? [state.width, state.height] : null;
  const asWillBe = useAsWillBe((s) => s.on);
  const sheet = asWillBe && file && isColoured(file) ? gradedSheet(state.id, file) : addressOf(media, STILLS.sheet);
  return (
    <StillPicture file={file} sheet={sheet} film={film} at={at} width={width}>
      {children}
    </StillPicture>
  );
}

/** The same outside a project, of its card. */
export function Poster({ project, file, film, width }: PosterProps) {
  return (
    <StillPicture
      file={file ?? undefined}
      sheet={file ? derivedUrl(project, file, STILLS.sheet) : ""}
      film={film}
      at={file ? Math.min(2, file.seconds / 2) : 0}
      width={width}
    />
  );
}

interface PosterProps {
  project: string;
  file: MediaView | null;
  film: [number, number];
  width: number;
}

interface PictureProps extends Omit<Props, "media" | "inFilm"> {
  file: MediaView | undefined;
  sheet: string;
  film: [number, number] | null;
  width: number;
}

function StillPicture({ file, sheet, film, at, width, children }: PictureProps) {
  const [, , across, up] = fitted(...(film ?? ([16, 9] as const)), width, (width * 9) / 16);
  return (
    <div className={film && file?.stills ? "still filmed" : "still"} style={{ width: across, height: up }}>
      {file?.stills ? <i style={tile(file, sheet, at, across, up, film ? file.placed : WHOLE)} /> : null}
      {children}
    </div>
  );
}

type Of = Pick<MediaView, "stills" | "width" | "height">;
type Place = MediaView["placed"];

/** A picture that lies whole in its frame. */
export const WHOLE: Place = { scale: 1, x: 0, y: 0, turn: 0 };

/** Style of the part of a sheet that is seen of a file in a frame of a width and height, as the file lies there. */
export function tile(file: Of, sheet: string, at: number, across: number, up: number, look: Place): CSSProperties {
  const k = Math.min(file.stills - 1, Math.max(0, Math.floor(at / STILLS.every_s)));
  const [x, y, w, h] = fitted(file.width || STILLS.width, file.height || STILLS.height, STILLS.width, STILLS.height);
  const [left, top, width, height] = fitted(w, h, across, up);
  const scale = width / w;
  const columns = Math.min(STILLS.columns, file.stills);
  const moved = `translate(${look.x * across}px, ${look.y * up}px) rotate(${look.turn}deg) scale(${look.scale})`;
  return {
    position: "absolute",
    left,
    top,
    width,
    height,
    backgroundImage: `url(${sheet})`,
    backgroundSize: `${columns * STILLS.width * scale}px auto`,
    backgroundPosition: `-${((k % STILLS.columns) * STILLS.width + x) * scale}px -${(Math.floor(k / STILLS.columns) * STILLS.height + y) * scale}px`,
    transform: moved,
  };
}
