import { derivedUrl } from "../api/client";
import { useProject } from "../api/project";

/** A small still of a file at a media time, from its sheet of stills. */
export function Still({
  media,
  at,
  width = 80,
  children,
}: {
  media: string;
  at: number;
  width?: number;
  children?: React.ReactNode;
}) {
  const { id, state } = useProject();
  const file = state.media.find((m) => m.id === media);
  const k = file?.stills ? Math.min(file.stills - 1, Math.max(0, Math.floor(at * 2))) : -1;
  const height = (width * 9) / 16;
  const style =
    k < 0
      ? { width, height }
      : {
          width,
          height,
          backgroundImage: `url(${derivedUrl(id, media, "stills.jpg")})`,
          backgroundSize: `${width * Math.min(10, file?.stills ?? 1)}px auto`,
          backgroundPosition: `-${(k % 10) * width}px -${Math.floor(k / 10) * height}px`,
        };
  return (
    <div className="still" style={style}>
      {children}
    </div>
  );
}
