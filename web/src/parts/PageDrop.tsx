import { App, Modal } from "antd";
import { type ReactNode, useEffect, useState } from "react";
import { api, data } from "../api/client";
import { useProject } from "../api/project";
import { classes } from "./classes";
import { filesOf, hasFolder } from "./dropped";
import styles from "./PageDrop.module.css";
import { layWhatIsReady, tookIn } from "./taken";
import { type Kind, Uploads, WHAT } from "./Uploads";

const cx = classes(styles);

/** Kind that files dropped on a view get; null where a view takes none. */
export function kindOf(view: string, hasSong: boolean): Kind | null {
  if (!hasSong) return "song";
  if (view === "lineup") return "take";
  return view === "coverage" || view === "sheet" ? "broll" : null;
}

const carriesFiles = (event: DragEvent) => event.dataTransfer?.types.includes("Files") ?? false;

/**
 * Takes files that are dropped anywhere on a view. Those that lie in a media folder are added from there, by reference;
 * the others are copied into the project, once that has been agreed to.
 */
export function PageDrop({ view, children }: { view: string; children: ReactNode }) {
  const { state, path, act } = useProject();
  const { message } = App.useApp();
  const [over, setOver] = useState(false);
  const [strange, setStrange] = useState<File[]>([]);
  const [kinds, setKinds] = useState<Kind | null>(null);
  const kind = kindOf(view, Boolean(state.song));
  useEffect(() => layWhatIsReady(state.media), [state.media]);
  useEffect(() => {
    const drag = (event: DragEvent) => {
      if (!carriesFiles(event)) return;
      // A file that is let go beside the page's places must not replace the page.
      event.preventDefault();
      setOver(event.type === "dragover");
    };
    const leave = (event: DragEvent) => {
      if (!event.relatedTarget) setOver(false);
    };
    const drop = async (event: DragEvent) => {
      drag(event);
      if (event.defaultPrevented && (event.target as Element).closest(".ant-upload")) return;
      const folder = hasFolder(event.dataTransfer);
      const dropped = event.dataTransfer ? await filesOf(event.dataTransfer) : [];
      if (!dropped.length) return;
      if (!kind) {
        void message.info("Drop takes on the Line-up, B-roll on Coverage or the Sheet.");
        return;
      }
      // A folder holds what was shot, of every kind.
      const what = folder ? "footage" : kind;
      setKinds(what);
      void take(what === "song" ? dropped.slice(0, 1) : dropped, what);
    };
    const take = async (files: File[], what: Kind) => {
      const body = { files: files.map(({ name, size }) => ({ name, size })) };
      const found = await act(() => data(api.POST("/api/v1/folders/dropped", { body })));
      if (!found) return;
      const paths = found.filter(Boolean);
      if (paths.length) {
        const added = { paths, kind: what, role: "" as const };
        const ids = await act(
          () => data(api.POST("/api/v1/projects/{project_id}/media", { params: path, body: added })),
          `Added ${paths.length} ${paths.length === 1 ? "file" : "files"} from the media folders`,
        );
        tookIn(ids ?? []);
      }
      setStrange(files.filter((_, i) => !found[i]));
    };
    const events = { dragover: drag, dragleave: leave, drop } as const;
    for (const [name, listener] of Object.entries(events)) window.addEventListener(name, listener as EventListener);
    return () => {
      for (const [name, listener] of Object.entries(events))
        window.removeEventListener(name, listener as EventListener);
    };
  }, [kind, path, act, message]);
  return (
    <>
      {children}
      {over && kind && (
        <div className={cx("drop")} data-testid="drop-here">
          Let go to add {WHAT[kind]}
        </div>
      )}
      <Modal
        title={kinds ? `Add ${WHAT[kinds]}` : "Add files"}
        open={strange.length > 0}
        onCancel={() => {
          setStrange([]);
          tookIn([]);
        }}
        footer={null}
        width={640}
        destroyOnHidden
      >
        <p>
          {strange.length === 1 ? "This file lies" : `These ${strange.length} files lie`} in no media folder. Copied
          into the project {strange.length === 1 ? "it takes" : "they take"}{" "}
          {(strange.reduce((sum, f) => sum + f.size, 0) / 1e9).toFixed(2)} GB; to use footage where it is, start zembi
          serve with --media and its folder.
        </p>
        {kinds && <Uploads kind={kinds} files={strange} />}
      </Modal>
    </>
  );
}
