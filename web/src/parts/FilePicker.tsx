import { FileOutlined, FolderOutlined } from "@ant-design/icons";
import { useQuery } from "@tanstack/react-query";
import { Alert, Breadcrumb, Button, Checkbox, List, Modal, Progress, Segmented, Upload } from "antd";
import { useState } from "react";
import { api, data } from "../api/client";
import { useProject } from "../api/project";
import { minutes } from "./format";

export type Kind = "song" | "take" | "broll" | "stem";
export type Role = "voice" | "drums" | "instrumental";
const WHAT: Record<Kind, string> = { song: "the song", take: "takes", broll: "B-roll", stem: "a stem" };

/** Kinds that are sound, and one file at a time. */
function one(kind: Kind): boolean {
  return kind === "song" || kind === "stem";
}

/** Where the folder is kept that was looked at last in this browser. */
const LAST_FOLDER = "zembi.folder";

interface Sending {
  name: string;
  share: number;
  error: string;
}

/** Bring files in: by reference from the allowed media folders, or by upload. */
export function FilePicker({
  kind,
  role,
  open,
  close,
}: {
  kind: Kind;
  role?: Role | undefined;
  open: boolean;
  close: () => void;
}) {
  const { act, path } = useProject();
  const [way, setWay] = useState<"folder" | "upload">("folder");
  const [folder, setFolder] = useState(() => localStorage.getItem(LAST_FOLDER) ?? "");
  const go = (to: string) => {
    localStorage.setItem(LAST_FOLDER, to);
    setFolder(to);
  };
  const [chosen, setChosen] = useState<Set<string>>(new Set());
  const done = () => {
    setChosen(new Set());
    close();
  };
  const add = async () => {
    const body = { paths: [...chosen], kind, role: role ?? ("" as const) };
    if (await act(() => data(api.POST("/api/projects/{project_id}/media", { params: path, body })))) done();
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
      <Segmented
        value={way}
        onChange={(v) => setWay(v as "folder" | "upload")}
        style={{ marginBottom: 12 }}
        options={[
          { label: "From a media folder", value: "folder" },
          { label: "Upload", value: "upload" },
        ]}
      />
      {way === "folder" ? (
        <Folder kind={kind} path={folder} go={go} chosen={chosen} choose={setChosen} />
      ) : (
        <Uploads kind={kind} role={role} />
      )}
    </Modal>
  );
}

function Folder({
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
    queryFn: () => data(api.GET("/api/folders", { params: { query: { path } } })),
    retry: false,
  });
  const seen = useQuery({
    queryKey: ["glances", path],
    queryFn: () => data(api.GET("/api/folders/glances", { params: { query: { path } } })),
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
  const entries = (view.data?.entries ?? []).filter((e) => e.folder || (one(kind) ? true : e.fits === "video"));
  const files = entries.filter((e) => !e.folder);
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
            title: (
              <button type="button" className="link" onClick={() => go("")}>
                Media folders
              </button>
            ),
          },
          ...(view.data?.path ? [{ title: view.data.path }] : []),
        ]}
      />
      <div className="folder-tools">
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
        className="folder-list"
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
              <button type="button" className="link" onClick={() => go(e.path)}>
                <FolderOutlined /> {e.name}
              </button>
            ) : (
              <Checkbox checked={chosen.has(e.path)} onChange={(event) => toggle(e.path, event.target.checked)}>
                <span className="folder-file">
                  {glance(e.name)?.picture ? (
                    <img className="folder-still" src={glance(e.name)?.picture} alt="" />
                  ) : (
                    <span className="folder-still">
                      <FileOutlined />
                    </span>
                  )}
                  {e.name}
                </span>
              </Checkbox>
            )}
            <span className="soft mono">{e.folder ? "" : said(e.size, glance(e.name))}</span>
          </List.Item>
        )}
      />
    </div>
  );
}

/** Length, picture size and bytes of a file, as far as they are known. */
function said(bytes: number, glance: { seconds: number; width: number; height: number } | undefined): string {
  const parts = glance ? [minutes(glance.seconds), ...(glance.width ? [`${glance.width}×${glance.height}`] : [])] : [];
  return [...parts, `${(bytes / 1e6).toFixed(1)} MB`].join(" · ");
}

function Uploads({ kind, role }: { kind: Kind; role?: Role | undefined }) {
  const { id, act } = useProject();
  const [sending, setSending] = useState<Sending[]>([]);
  const note = (name: string, change: Partial<Sending>) =>
    setSending((now) => {
      const others = now.filter((s) => s.name !== name);
      const old = now.find((s) => s.name === name) ?? { name, share: 0, error: "" };
      return [...others, { ...old, ...change }];
    });
  const send = (file: File) =>
    new Promise<void>((finished) => {
      const request = new XMLHttpRequest();
      request.open(
        "POST",
        `/api/projects/${id}/upload?kind=${kind}&role=${role ?? ""}&name=${encodeURIComponent(file.name)}`,
      );
      request.upload.onprogress = (e) => note(file.name, { share: e.loaded / Math.max(1, e.total) });
      request.onload = () => {
        const ok = request.status === 201;
        const detail = ok ? "" : (JSON.parse(request.responseText || "{}") as { detail?: string }).detail;
        note(file.name, ok ? { share: 1 } : { error: detail ?? "The upload was refused." });
        if (ok) void act(async () => null);
        finished();
      };
      request.onerror = () => {
        note(file.name, { error: "The connection broke. Try again." });
        finished();
      };
      request.send(file);
    });
  return (
    <>
      <Upload.Dragger
        multiple={!one(kind)}
        showUploadList={false}
        accept={one(kind) ? "audio/*,video/*" : "video/*"}
        customRequest={({ file, onSuccess }) => void send(file as File).then(() => onSuccess?.({}))}
      >
        <p>Drop {WHAT[kind]} here, or click to choose. Uploads are copied into the project's folder.</p>
      </Upload.Dragger>
      <List
        size="small"
        dataSource={sending}
        locale={{ emptyText: " " }}
        renderItem={(s) => (
          <List.Item>
            <span className="upload-name">{s.name}</span>
            {s.error ? (
              <span className="bad">{s.error}</span>
            ) : (
              <Progress percent={Math.round(100 * s.share)} size="small" style={{ width: 200 }} />
            )}
          </List.Item>
        )}
      />
    </>
  );
}
