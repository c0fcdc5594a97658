import { Button, Checkbox, Typography } from "antd";
import { useState } from "react";
import { api, data } from "../../api/client";
import { useProject } from "../../api/project";
import { PlacePicker } from "../../parts/PlacePicker";

/** Put all that the project uses into one folder, with the project; or list it, or take out what nothing uses. */
export function Collect() {
  const { state, act, path, ofEdit } = useProject();
  const [picking, setPicking] = useState(false);
  const [bringing, setBringing] = useState(false);
  const [own, setOwn] = useState(false);
  const bring = async (file: string) => {
    setBringing(false);
    await act(
      () =>
        data(
          api.POST("/api/v1/projects/{project_id}/edits/{edit_id}/returns", {
            params: ofEdit(),
            body: { path: file, own_lane: own },
          }),
        ),
      "It lies in its place; the original is beneath it",
    );
  };
  const collect = async (where: string) => {
    setPicking(false);
    await act(
      () =>
        data(api.POST("/api/v1/projects/{project_id}/handoff/collections", { params: path, body: { path: where } })),
      "Collecting; the jobs above say how far it is",
    );
  };
  const throwOut = () =>
    act(async () => {
      const out = await data(api.DELETE("/api/v1/projects/{project_id}/files/unused", { params: path }));
      if (!out.length) throw new Error("Nothing to take out: every file is used, rated or has a select.");
      return out;
    }, "Taken out of the project; the files stay where they are, and undo brings them back");
  return (
    <>
      <h2>All its files</h2>
      <div className="buttons">
        <Button size="small" onClick={() => setPicking(true)} data-testid="collect">
          Collect into a folder…
        </Button>
        <Button size="small" onClick={() => void throwOut()} data-testid="throw-out">
          Take out what nothing uses
        </Button>
        <Button
          size="small"
          onClick={() => setBringing(true)}
          data-testid="bring-back"
          title="What another program made of a shot or passage that was sent out"
        >
          Bring a shot back…
        </Button>
        <Checkbox checked={own} onChange={(e) => setOwn(e.target.checked)} data-testid="bring-own-lane">
          <span title="Over cutaways too, and switched on and off by itself">on a lane of its own</span>
        </Checkbox>
        <Typography.Link underline href={`/api/v1/projects/${state.id}/handoff/used.csv`} download>
          list, CSV
        </Typography.Link>
      </div>
      {bringing && (
        <PlacePicker
          title="Which file came back? It keeps the beginning of its name, or its .json beside it."
          want="file"
          word="Lay it in its place"
          close={() => setBringing(false)}
          take={(file) => void bring(file)}
        />
      )}
      {picking && (
        <PlacePicker
          title="Where shall the project and all that it uses be copied?"
          want="folder"
          word="Copy it here"
          close={() => setPicking(false)}
          take={(where) => void collect(where)}
        />
      )}
    </>
  );
}
