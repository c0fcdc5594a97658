import { App, Button } from "antd";
import { useState } from "react";
import { api, data, type MediaView } from "../api/client";
import { useProject } from "../api/project";
import { PlacePicker } from "./PlacePicker";

/** Put a better file in a clip's place, once it was said what differs. */
export function Replace({ clip }: { clip: MediaView }) {
  const { id, act } = useProject();
  const { modal } = App.useApp();
  const [picking, setPicking] = useState(false);
  const ask = (path: string, accept: boolean) =>
    act(() =>
      data(
        api.POST("/api/v1/projects/{project_id}/media/{media_id}/replacements", {
          params: { path: { project_id: id, media_id: clip.id } },
          body: { path, accept },
        }),
      ),
    );
  const take = async (path: string) => {
    setPicking(false);
    const told = await ask(path, false);
    if (!told) return;
    modal.confirm({
      title: `Put ${path.split("/").at(-1)} in the place of ${clip.name}?`,
      content: told.differs.length
        ? `It differs: ${told.differs.join("; ")}. Frames stay where they are by time.`
        : "Same length, rate and size. Frames stay where they are.",
      okText: "Replace",
      onOk: () => ask(path, true),
    });
  };
  return (
    <>
      <Button size="small" onClick={() => setPicking(true)} data-testid="replace">
        Replace the file…
      </Button>
      {picking && (
        <PlacePicker
          title={`A better file for ${clip.name}`}
          want="file"
          close={() => setPicking(false)}
          take={(path) => void take(path)}
        />
      )}
    </>
  );
}
