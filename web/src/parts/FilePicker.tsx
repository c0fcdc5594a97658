import { FileOutlined, FolderOutlined } from "@ant-design/icons";
import { useQuery } from "@tanstack/react-query";
import { Alert, Breadcrumb, Button, Checkbox, List, Modal, Segmented } from "antd";
import { useState } from "react";
import { api, data } from "../api/client";
import { useCommands } from "../api/project";
import { minutes } from "./format";
import { type Kind, one, type Role, Uploads, WHAT } from "./Uploads";
import styles from "./FilePicker.module.css";
import { classes } from "./classes";
import { TextButton } from "./TextButton";

const cx = classes(styles);

/** Storage key of the folder that was opened last in this browser. */
export const LAST_FOLDER = "zembi.folder";

/** Bring files in: by reference from the allowed media folders, or by upload. */
export function FilePicker({
  kind: asked,
  role,
  open,
  close,
}: {
  kind: Kind;
  role?: Role | undefined;
  open: boolean;
  close: () => void;
}) {
  const { act, path } = useCommands();
  const [other, setOther] = useState<Kind | null>(null);
  const kind = other ?? asked;
  const [way, setWay] = useState<"folder" | "upload">("folder");
  const [folder, setFolder] = useState(() => localStorage.getItem(LAST_FOLDER) ?? "");
  const go = (to: string) => {
    localStorage.setItem(LAST_FOLDER, to);
    setFolder(to);
  };
  const [chosen, setChosen] = useState<Set<string>>(new Set());
  const done = () => {
    setChosen(new Set());
    setOther(null);
    close();
  };
  const add = async () => {
    const body = { paths: [...chosen], kind, role: role ?? ("" as const) };
    if (await act(() => data(api.POST("/api/v1/projects/{project_id}/media", { params: path, body })))) done();
  };
  return (
    <Modal
      title={role ? `Add the ${role} stem` : `Add ${WHAT[kind]}`}
      open={open}
      onCancel={done}
      width={640}
      destroyOnHidden
      footer={
        way === "upload" ? (
          <Button onClick={done}>Close</Button>
        ) : (
          <>
            <Button onClick={done}>Cancel</Button>
            <Button type="primary" disabled={!chosen.size} onClick={add} data-testid="add-chosen">
              {chosen.size ? `Add ${chosen.size} ${chosen.size === 1 ? "file" : "files"}` : "Add"}
            </Button>
          </>
        )
      }
    >
      <div className={cx("ways")}>
        <Segmented
          value={way}
          onChange={(v) => setWay(v as "folder" | "upload")}
          options={[
            { label: "From a media folder", value: "folder" },
            { label: "Upload", value: "upload" },
          ]}
        />
        {!one(asked) && (
          <Segmented
            value={kind}
            onChange={(v) => setOther(v as Kind)}
            data-testid="add-as"
            options={[
              { label: "takes", value: "take", title: "Each is lined up to the song" },
              { label: "B-roll", value: "broll", title: "Clips and stills that are not tied to the song" },
              {
                label: "tell them apart",
                value: "footage",
                title: "What holds the song is a take; stills and clips without sound are B-roll",
              },
            ]}
          />
        )}
      </div>
      {way === "folder" ? (
        <Folder kind={kind} path={folder} go={go} chosen={chosen} choose={setChosen} />
      ) : (
        <Uploads kind={kind} role={role} />
      )}
    </Modal>
  );
}

/** An allowed folder: its folders to go into, its files to choose. */
export function Folder({
  kind,
  path,
  go,
  chosen,
  choose,
}: {
  kind: Kind;
  path: string;
  go: (p: string) => void;
  chosen: Set<string>;
  choose: (c: Set<string>) => void;
}) {
  const view = useQuery({
    queryKey: ["folder", path],
    queryFn: () => data(api.GET("/api/v1/folders", { params: { query: { path } } })),
    retry: false,
  });
  const seen = useQuery({
    queryKey: ["glances", path],
    queryFn: () => data(api.GET("/api/v1/folders/glances", { params: { query: { path } } })),
    enabled: Boolean(path) && Boolean(view.data?.entries.some((e) => !e.folder)),
    staleTime: 60_000,
    retry: false,
  });
  const glance = (name: string) => seen.data?.find((g) => g.name === name);
  if (view.error)
    return (
      <Alert
        type="error"
        showIcon
        message={view.error.message}
        action={<Button onClick={() => go("")}>Media folders</Button>}
      />
    );
  const entries = (view.data?.entries ?? []).filter((e) => e.folder || e.fits === "raw" || fitsKind(e, kind));
  const files = entries.filter((e) => !e.folder && e.fits !== "raw");
  const toggle = (file: string, on: boolean) => {
    const next = new Set(one(kind) ? [] : chosen);
    if (on) next.add(file);
    else next.delete(file);
    choose(next);
  };
  return (
    <div>
      <Breadcrumb
        items={[
          {
            title: <TextButton onClick={() => go("")}>Media folders</TextButton>,
          },
          ...(view.data?.path ? [{ title: view.data.path }] : []),
        ]}
      />
      <div className={cx("folder-tools")}>
        {view.data?.parent !== null && view.data?.parent !== undefined && (
          <Button size="small" onClick={() => go(view.data?.parent ?? "")}>
            Up one folder
          </Button>
        )}
        {!one(kind) && files.length > 1 && (
          <Button size="small" onClick={() => choose(new Set([...chosen, ...files.map((f) => f.path)]))}>
            Choose all {files.length}
          </Button>
        )}
      </div>
      <List
        className={cx("folder-list")}
        size="small"
        loading={view.isLoading}
        dataSource={entries}
        locale={{
          emptyText:
            "No media files here. Footage is read from the media folders only; start zembi serve with --media to allow another.",
        }}
        renderItem={(e) => (
          <List.Item>
            {e.folder ? (
              <TextButton onClick={() => go(e.path)}>
                <FolderOutlined /> {e.name}
              </TextButton>
            ) : (
              <Checkbox
                disabled={e.fits === "raw"}
                checked={chosen.has(e.path)}
                onChange={(event) => toggle(e.path, event.target.checked)}
              >
                <span className={cx("folder-file")}>
                  {glance(e.name)?.picture ? (
                    <img className={cx("folder-still")} src={glance(e.name)?.picture} alt="" />
                  ) : (
                    <span className={cx("folder-still")}>
                      <FileOutlined />
                    </span>
                  )}
                  {e.name}
                </span>
              </Checkbox>
            )}
            {e.folder ? (
              one(kind) || !path ? null : (
                <WholeFolder path={e.path} kind={kind} chosen={chosen} choose={choose} />
              )
            ) : (
              <span className="soft mono">
                {e.fits === "raw" ? "raw: export it from the camera's program first" : said(e.size, glance(e.name))}
              </span>
            )}
          </List.Item>
        )}
      />
    </div>
  );
}

/** Whether a file may be of a kind, by its ending. */
function fitsKind(entry: { fits: string }, kind: Kind): boolean {
  if (entry.fits === "raw") return false;
  return one(kind) || entry.fits === "video" || (kind !== "take" && entry.fits === "still");
}

/** A folder with all below it, chosen by one tick: how many files that is, and how large, is said first. */
function WholeFolder({
  path,
  kind,
  chosen,
  choose,
}: {
  path: string;
  kind: Kind;
  chosen: Set<string>;
  choose: (c: Set<string>) => void;
}) {
  const below = useQuery({
    queryKey: ["below", path],
    queryFn: () => data(api.GET("/api/v1/folders/below", { params: { query: { path } } })),
    staleTime: 30_000,
    retry: false,
  });
  const files = (below.data?.files ?? []).filter((e) => fitsKind(e, kind));
  const all = files.length > 0 && files.every((f) => chosen.has(f.path));
  const some = files.some((f) => chosen.has(f.path));
  const tick = (on: boolean) => {
    const next = new Set(chosen);
    for (const file of files) on ? next.add(file.path) : next.delete(file.path);
    choose(next);
  };
  if (below.isLoading) return <span className="soft">counting…</span>;
  if (!files.length) return <span className="soft">nothing for this</span>;
  return (
    <Checkbox
      checked={all}
      indeterminate={some && !all}
      onChange={(e) => tick(e.target.checked)}
      data-testid="whole-folder"
    >
      <span className="mono">
        all {files.length}
        {below.data?.cut_off ? " and more" : ""} · {size(files.reduce((sum, f) => sum + f.size, 0))}
      </span>
    </Checkbox>
  );
}

function size(bytes: number): string {
  return bytes < 1e9 ? `${(bytes / 1e6).toFixed(1)} MB` : `${(bytes / 1e9).toFixed(1)} GB`;
}

/** Length, picture size and bytes of a file, as far as they are known. */
function said(bytes: number, glance: { seconds: number; width: number; height: number } | undefined): string {
  const parts = glance ? [minutes(glance.seconds), ...(glance.width ? [`${glance.width}×${glance.height}`] : [])] : [];
  return [...parts, size(bytes)].join(" · ");
}
