import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Alert, App, Button, Empty, Form, Input, InputNumber, Modal, Popconfirm, Select, Skeleton } from "antd";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, data, derivedUrl, type ProjectCard } from "../../api/client";

const SIZES = ["1920×1080", "3840×2160", "1280×720", "1080×1920", "1080×1080", "2048×858"];

/** All projects, and making a new one: rate and size first. */
export function ProjectsView() {
  const projects = useQuery({ queryKey: ["projects"], queryFn: () => data(api.GET("/api/projects")), retry: false });
  const [making, setMaking] = useState(false);
  return (
    <div className="projects">
      <header className="bar">
        <span className="word">zembi</span>
      </header>
      <div className="projects-body">
        <div className="projects-head">
          <h1>Projects</h1>
          <Button type="primary" onClick={() => setMaking(true)} data-testid="new-project">
            New project
          </Button>
        </div>
        {projects.error && <Alert type="error" showIcon message={projects.error.message} />}
        {projects.isLoading && <Skeleton active />}
        {projects.data?.length === 0 && (
          <Empty description="No projects yet. Make one, or run “make demo” for the demo project “Lamp Room”." />
        )}
        <div className="cards">
          {projects.data?.map((card) => (
            <Card key={card.id} card={card} />
          ))}
        </div>
      </div>
      <NewProject open={making} close={() => setMaking(false)} />
    </div>
  );
}

function Card({ card }: { card: ProjectCard }) {
  const client = useQueryClient();
  const { message } = App.useApp();
  const remove = async () => {
    try {
      await data(api.DELETE("/api/projects/{project_id}", { params: { path: { project_id: card.id } } }));
      await client.invalidateQueries({ queryKey: ["projects"] });
    } catch (fault) {
      void message.error((fault as Error).message);
    }
  };
  const deleting = (
    <Popconfirm
      title={`Delete “${card.name}”?`}
      description="The project folder is deleted. Footage outside it is not touched."
      okText="Delete project"
      onConfirm={remove}
    >
      <Button size="small" type="text" danger>
        Delete
      </Button>
    </Popconfirm>
  );
  if (card.trouble)
    return (
      <article className="card" data-testid={`trouble-${card.id}`}>
        <div className="card-picture card-torn">cannot be opened</div>
        <h2>{card.name}</h2>
        <p className="bad">{card.trouble}</p>
        <p className="soft">
          The other projects are not touched by it.
          {deleting}
        </p>
      </article>
    );
  return (
    <article className="card">
      <Link to={`/p/${card.id}/song`} data-testid={`open-${card.id}`} aria-label={`Open ${card.name}`}>
        <div
          className="card-picture"
          style={card.still ? { backgroundImage: `url(${derivedUrl(card.id, card.still, "stills.jpg")})` } : undefined}
        />
        <h2>{card.name}</h2>
      </Link>
      <p>
        {card.song || "no song yet"} · {card.takes} takes · {card.clips} B-roll
      </p>
      <p className="soft">
        {card.rate} f/s · {card.width}×{card.height}
        {deleting}
      </p>
    </article>
  );
}

interface Wanted {
  name: string;
  rate: string;
  size: string;
  width: number;
  height: number;
}

function NewProject({ open, close }: { open: boolean; close: () => void }) {
  const [form] = Form.useForm<Wanted>();
  const [making, setMaking] = useState(false);
  const size = Form.useWatch("size", form);
  const rates = useQuery({ queryKey: ["rates"], queryFn: () => data(api.GET("/api/projects/rates")) });
  const go = useNavigate();
  const { message } = App.useApp();
  const make = async (wanted: Wanted) => {
    const [w, h] = wanted.size === "other" ? [wanted.width, wanted.height] : wanted.size.split("×").map(Number);
    // A double click makes one project.
    if (making) return;
    setMaking(true);
    try {
      const body = { name: wanted.name, rate: wanted.rate, width: w ?? 0, height: h ?? 0 };
      const made = await data(api.POST("/api/projects", { body }));
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
      <Form form={form} layout="vertical" initialValues={{ rate: "24", size: SIZES[0] }} onFinish={make}>
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
            options={[...SIZES, "other"].map((s) => ({ value: s, label: s === "other" ? "another size…" : s }))}
          />
        </Form.Item>
        {size === "other" && (
          <div className="row">
            <Form.Item name="width" label="Width" rules={[{ required: true }]}>
              <InputNumber min={16} max={8192} step={2} />
            </Form.Item>
            <Form.Item name="height" label="Height" rules={[{ required: true }]}>
              <InputNumber min={16} max={8192} step={2} />
            </Form.Item>
          </div>
        )}
      </Form>
    </Modal>
  );
}
