import { Button, List, Progress, Upload } from "antd";
import { useState } from "react";
import { useCommands } from "../api/project";
import { classes } from "./classes";
import styles from "./FilePicker.module.css";
import { tookIn } from "./taken";

const cx = classes(styles);

export type Kind = "song" | "take" | "broll" | "stem" | "footage";
export type Role = "voice" | "drums" | "instrumental";
export const WHAT: Record<Kind, string> = {
  song: "the song",
  take: "takes",
  broll: "B-roll",
  stem: "a stem",
  footage: "footage",
};

/** Kinds that are sound, and one file at a time. */
export function one(kind: Kind): boolean {
  return kind === "song" || kind === "stem";
}

interface Sending {
  name: string;
  share: number;
  error: string;
}

/** Copies files into the project, one after the other: those given when asked to, and those dropped or chosen here. */
export function Uploads({ kind, role, files = [] }: { kind: Kind; role?: Role | undefined; files?: readonly File[] }) {
  const { id, act } = useCommands();
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
        `/api/v1/projects/${id}/uploads?kind=${kind}&role=${role ?? ""}&name=${encodeURIComponent(file.name)}`,
      );
      request.upload.onprogress = (e) => note(file.name, { share: e.loaded / Math.max(1, e.total) });
      request.onload = () => {
        const ok = request.status === 201;
        const detail = ok ? "" : (JSON.parse(request.responseText || "{}") as { detail?: string }).detail;
        note(file.name, ok ? { share: 1 } : { error: detail ?? "The upload was refused." });
        if (ok) {
          tookIn(JSON.parse(request.responseText) as string[]);
          void act(async () => null);
        }
        finished();
      };
      request.onerror = () => {
        note(file.name, { error: "The connection broke. Try again." });
        finished();
      };
      request.send(file);
    });
  const waiting = files.filter((f) => !sending.some((s) => s.name === f.name));
  const copy = async () => {
    for (const file of waiting) await send(file);
  };
  return (
    <>
      {waiting.length > 0 && (
        <Button type="primary" onClick={copy} style={{ marginBottom: 12 }} data-testid="copy-dropped">
          Copy {waiting.length === 1 ? waiting[0]?.name : `${waiting.length} files`} into the project
        </Button>
      )}
      <Upload.Dragger
        multiple={!one(kind)}
        showUploadList={false}
        accept={one(kind) ? "audio/*,video/*" : kind === "take" ? "video/*" : "video/*,image/*"}
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
            <span className={cx("upload-name")}>{s.name}</span>
            {s.error ? (
              <span className="bad">{s.error}</span>
            ) : (
              <Progress aria-label="Copying" percent={Math.round(100 * s.share)} size="small" style={{ width: 200 }} />
            )}
          </List.Item>
        )}
      />
    </>
  );
}
