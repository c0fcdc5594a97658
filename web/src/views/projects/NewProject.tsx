import { useQuery } from "@tanstack/react-query";
import { App, Form, Input, InputNumber, Modal, Select } from "antd";
import { useState } from "react";
import { useNavigate } from "react-router";
import { api, data } from "../../api/client";
import { SIZES, within } from "../../api/facts";
import { kept } from "../../parts/kept";
import styles from "./ProjectsView.module.css";

/** Storage key of the rate and size chosen last in this browser, which are offered the next time. */
const LAST = "zembi.new-project";
const OFFERED = SIZES.map(([width, height]) => `${width}×${height}`);

interface Wanted {
  name: string;
  rate: string;
  size: string;
  width: number;
  height: number;
}

/** Making a project: its own frame rate and picture size come first. */
export function NewProject({ open, close }: { open: boolean; close: () => void }) {
  const [form] = Form.useForm<Wanted>();
  const [making, setMaking] = useState(false);
  const size = Form.useWatch("size", form);
  const rates = useQuery({ queryKey: ["rates"], queryFn: () => data(api.GET("/api/v1/rates")) });
  const go = useNavigate();
  const { message } = App.useApp();
  const make = async (wanted: Wanted) => {
    const [w, h] = wanted.size === "other" ? [wanted.width, wanted.height] : wanted.size.split("×").map(Number);
    // A double click makes one project.
    if (making) return;
    setMaking(true);
    try {
      const body = { name: wanted.name, rate: wanted.rate, width: w ?? 0, height: h ?? 0 };
      const made = await data(api.POST("/api/v1/projects", { body }));
      const { rate, size, width, height } = wanted;
      localStorage.setItem(LAST, JSON.stringify({ rate, size, width, height }));
      go(`/p/${made.id}/song`);
    } catch (fault) {
      void message.error((fault as Error).message);
    } finally {
      setMaking(false);
    }
  };
  return (
    <Modal
      title="New project"
      open={open}
      onCancel={close}
      okText="Make project"
      confirmLoading={making}
      onOk={() => form.submit()}
      destroyOnHidden
    >
      <p className="soft">
        Frame rate and picture size are the film's own: they are not taken from a clip, and cuts are frames of this
        rate.
      </p>
      <Form
        form={form}
        layout="vertical"
        initialValues={{ rate: "24", size: OFFERED[0], ...kept<Partial<Wanted>>(LAST, {}) }}
        onFinish={make}
      >
        <Form.Item
          name="name"
          label="Name"
          rules={[{ required: true, whitespace: true, message: "Give the project a name" }]}
        >
          <Input autoFocus />
        </Form.Item>
        <Form.Item name="rate" label="Frames a second" rules={[{ required: true }]}>
          <Select options={(rates.data ?? []).map((r) => ({ value: r, label: r }))} />
        </Form.Item>
        <Form.Item name="size" label="Picture size">
          <Select
            options={[...OFFERED, "other"].map((s) => ({ value: s, label: s === "other" ? "another size…" : s }))}
          />
        </Form.Item>
        {size === "other" && (
          <div className={styles.row}>
            <Form.Item name="width" label="Width" rules={[{ required: true }]}>
              <InputNumber {...within("side")} step={2} />
            </Form.Item>
            <Form.Item name="height" label="Height" rules={[{ required: true }]}>
              <InputNumber {...within("side")} step={2} />
            </Form.Item>
          </div>
        )}
      </Form>
    </Modal>
  );
}
