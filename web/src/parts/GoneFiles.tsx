import { Alert, App, Button } from "antd";
import { useState } from "react";
import { api, data } from "../api/client";
import { useProject } from "../api/project";
import { PlacePicker } from "./PlacePicker";

/** Says which files are not where they were, and looks for them. Nothing while all are there. */
export function GoneFiles() {
  const { state, act, path } = useProject();
  const { message } = App.useApp();
  const [looking, setLooking] = useState(false);
  const gone = state.media.filter((m) => m.condition !== "ok");
  if (!gone.length) return null;
  const find = async (where: string) => {
    setLooking(false);
    const found = await act(() =>
      data(api.POST("/api/v1/projects/{project_id}/files/searches", { params: path, body: { path: where } })),
    );
    if (!found) return;
    const left = found.missing.length ? ` Still gone: ${found.missing.join(", ")}.` : "";
    void message.info(`Found ${found.found.length} of ${found.found.length + found.missing.length}.${left}`, 6);
  };
  const names = gone.slice(0, 4).map((m) => m.name);
  return (
    <>
      <Alert
        type="warning"
        showIcon
        data-testid="gone-files"
        message={`${gone.length === 1 ? "One file is" : `${gone.length} files are`} not as added: ${names.join(", ")}${gone.length > 4 ? "…" : ""}. The edit keeps every shot.`}
        action={
          <Button size="small" onClick={() => setLooking(true)} data-testid="find-again">
            Find again…
          </Button>
        }
      />
      {looking && (
        <PlacePicker
          title="Where are they now? One folder is looked through, with all in it."
          want="folder"
          close={() => setLooking(false)}
          take={(where) => void find(where)}
        />
      )}
    </>
  );
}
