import { useQuery } from "@tanstack/react-query";
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
  rate: string;
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
      <button
        type="button"
        className={cx("cell")}
        title="Name, picture size, rate and first timecode"
        data-testid="project"
      >
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
  const rates = useQuery({ queryKey: ["rates"], queryFn: () => data(api.GET("/api/v1/rates")) });
  const [rate, setRate] = useState(state.rate_label);
  const told = useQuery({
    queryKey: ["rate change", state.id, rate],
    queryFn: () => data(api.GET("/api/v1/projects/{project_id}/rate-change", { params: { ...path, query: { rate } } })),
    enabled: rate !== state.rate_label,
    retry: false,
  });
  const change = async ({ name, size, first_timecode, rate: wanted }: Wanted) => {
    const [width = 0, height = 0] = size.split("×").map(Number);
    const body = {
      ...(name === state.name ? {} : { name }),
      ...(size === now ? {} : { size: [width, height] as [number, number] }),
      ...(first_timecode === state.first_timecode ? {} : { first_timecode }),
      ...(wanted === state.rate_label ? {} : { rate: wanted }),
    };
    if (await act(() => data(api.PATCH("/api/v1/projects/{project_id}", { params: path, body })))) done();
  };
  return (
    <Form<Wanted>
      className={cx("form")}
      size="small"
      layout="vertical"
      initialValues={{ name: state.name, size: now, first_timecode: state.first_timecode, rate: state.rate_label }}
      onFinish={change}
      data-testid="change-project"
    >
      <Form.Item name="name" label="Name" rules={[{ required: true, whitespace: true, message: "Give it a name" }]}>
        <Input />
      </Form.Item>
      <Form.Item name="size" label="Picture size" extra="Every file is fitted into it anew; cuts stay on their frames.">
        <Select options={sizes.map((s) => ({ value: s, label: s }))} />
      </Form.Item>
      <Form.Item
        name="rate"
        label="Frames a second"
        extra={<span data-testid="rate-change">{told.error ? told.error.message : (told.data?.words ?? "")}</span>}
      >
        <Select
          onChange={setRate}
          options={[...new Set([state.rate_label, ...(rates.data ?? [])])].map((r) => ({ value: r, label: r }))}
          data-testid="project-rate"
        />
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
