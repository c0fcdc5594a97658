import { Button, Modal } from "antd";
import { useState } from "react";
import { Folder, LAST_FOLDER } from "./FilePicker";

/** Choose one file, or a folder, of the allowed media folders. */
export function PlacePicker({
  title,
  want,
  word = want === "folder" ? "Look here" : "Take this file",
  close,
  take,
}: {
  title: string;
  want: "file" | "folder";
  /** Label of the button. */
  word?: string;
  close: () => void;
  take: (path: string) => void;
}) {
  const [folder, setFolder] = useState(() => localStorage.getItem(LAST_FOLDER) ?? "");
  const [chosen, setChosen] = useState<Set<string>>(new Set());
  const file = [...chosen].at(-1);
  const path = file ?? (want === "folder" ? folder : undefined);
  return (
    <Modal
      title={title}
      open
      onCancel={close}
      width={640}
      footer={
        <>
          <Button onClick={close}>Cancel</Button>
          <Button type="primary" disabled={!path} onClick={() => path && take(path)} data-testid="take-place">
            {word}
          </Button>
        </>
      }
    >
      <Folder
        kind="broll"
        path={folder}
        go={(to) => {
          setFolder(to);
          setChosen(new Set());
        }}
        chosen={chosen}
        choose={(files) => setChosen(new Set([...files].slice(-1)))}
      />
    </Modal>
  );
}
