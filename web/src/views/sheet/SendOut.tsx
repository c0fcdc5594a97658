import { Button, Select } from "antd";
import { useState } from "react";
import { api, data } from "../../api/client";
import { within } from "../../api/facts";
import { useProject } from "../../api/project";
import { classes } from "../../parts/classes";
import { NumberField } from "../../parts/NumberField";
import styles from "./ShotMenu.module.css";

const cx = classes(styles);

const FORMS = [
  { value: "prores", label: "ProRes movie" },
  { value: "dnxhr", label: "DNxHR movie" },
  { value: "png", label: "PNG pictures" },
] as const;

/** Write a shot or passage with handles for work in another program; Hand-off brings back what comes of it. */
export function SendOut({ what, done }: { what: { item: number } | { first: number; end: number }; done: () => void }) {
  const { ofEdit, act } = useProject();
  const [handles, setHandles] = useState(12);
  const [form, setForm] = useState<(typeof FORMS)[number]["value"]>("prores");
  const send = async () => {
    done();
    const body = { ...what, handles, form };
    await act(
      () => data(api.POST("/api/v1/projects/{project_id}/edits/{edit_id}/excerpts", { params: ofEdit(), body })),
      "It is written into the project's folder “sent”, with a .json that says its place",
    );
  };
  return (
    <div className={cx("send")} data-testid="send-out">
      <span>Send it out as</span>
      <Select
        size="small"
        value={form}
        onChange={setForm}
        options={[...FORMS]}
        popupMatchSelectWidth={false}
        aria-label="As what"
      />
      <span>with</span>
      <NumberField
        value={handles}
        change={setHandles}
        {...within("handles")}
        suffix="f"
        aria-label="Handles in frames"
      />
      <span>of handles</span>
      <Button size="small" type="primary" onClick={() => void send()} data-testid="send-it">
        Write it
      </Button>
      <Button size="small" onClick={done}>
        Leave it
      </Button>
    </div>
  );
}
