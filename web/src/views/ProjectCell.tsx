import { Button, Form, Input, Popover, Select } from "antd";
import { useState } from "react";
import { api, data } from "../api/client";
import { SIZES } from "../api/facts";
import { useEdit, useProject } from "../api/project";
import { classes } from "../parts/classes";
import styles from "./ProjectCell.module.css";

const cx = classes(styles);

interface Wanted {
  name: string;
  size: string;
  first_timecode: string;
}

/** Name, rate and size of the open project; a click changes what can be changed of them. */
export function ProjectCell() {
  const { state } = useProject();
  const edit = useEdit();
  const [open, setOpen] = useState(false);
  return (
    <Popover
      trigger="click"
      placement="bottomLeft"
      open={open}
      onOpenChange={setOpen}
      destroyOnHidden
      content={<Change done={() => setOpen(false)} />}
    >
      <button type="button" className={cx("cell")} title="Name, picture size and first timecode" data-testid="project">
        <b>{state.name}</b>
        <span>
          {edit?.name ?? "no edit"} · {state.rate_label} f/s · {state.width}×{state.height}
        </span>
      </button>
    </Popover>
  );
}

function Change({ done }: { done: () => void }) {
  const { state, act, path } = useProject();
  const now = `${state.width}×${state.height}`;
  const sizes = [...new Set([now, ...SIZES.map(([w, h]) => `${w}×${h}`)])];
  const change = async ({ name, size, first_timecode }: Wanted) => {
    const [width = 0, height = 0] = size.split("×").map(Number);
    const body = {
      ...(name === state.name ? {} : { name }),
      ...(size === now ? {} : { size: [width, height] as [number, number] }),
      ...(first_timecode === state.first_timecode ? {} : { first_timecode }),
    };
    if (await act(() => data(api.PATCH("/api/projects/{project_id}", { params: path, body })))) done();
  };
  return (
    <Form<Wanted>
      className={cx("form")}
      size="small"
      layout="vertical"
      initialValues={{ name: state.name, size: now, first_timecode: state.first_timecode }}
      onFinish={change}
      data-testid="change-project"
    >
      <Form.Item name="name" label="Name" rules={[{ required: true, whitespace: true, message: "Give it a name" }]}>
        <Input />
      </Form.Item>
      <Form.Item name="size" label="Picture size" extra="Every file is fitted into it anew; cuts stay on their frames.">
        <Select options={sizes.map((s) => ({ value: s, label: s }))} />
      </Form.Item>
      <Form.Item name="first_timecode" label="Timecode of the first frame, in what is handed off">
        <Input className="mono" />
      </Form.Item>
      <Button type="primary" size="small" htmlType="submit" data-testid="keep-project">
        Change
      </Button>
    </Form>
  );
}
