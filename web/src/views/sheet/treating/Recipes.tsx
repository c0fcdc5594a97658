import { Button, Dropdown, Input, type MenuProps, Popover } from "antd";
import { useState } from "react";
import { api, data } from "../../../api/client";
import { useProject } from "../../../api/project";
import type { Treatment } from "./kinds";

/** Keeps treatments under a name, to be laid on other shots. */
export function KeepRecipe({ treatments }: { treatments: Treatment[] }) {
  const { path, act } = useProject();
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const keep = () => {
    if (!name.trim()) return;
    setOpen(false);
    const body = { name: name.trim(), treatments };
    void act(
      () => data(api.POST("/api/projects/{project_id}/recipes", { params: path, body })),
      `Kept as ${name.trim()}`,
    );
  };
  return (
    <Popover
      trigger="click"
      open={open}
      onOpenChange={setOpen}
      content={
        <Input
          size="small"
          autoFocus
          placeholder="name of the recipe"
          value={name}
          maxLength={120}
          onChange={(e) => setName(e.target.value)}
          onPressEnter={keep}
          aria-label="Name of the recipe"
        />
      }
    >
      <Button size="small" data-testid="keep-recipe">
        Keep as a recipe
      </Button>
    </Popover>
  );
}

interface Props {
  add: (treatments: Treatment[]) => Promise<void>;
  allowed: (treatment: Treatment) => boolean;
}

/** The recipes that are kept: lay one on, write them as a file, take others over. */
export function Recipes({ add, allowed }: Props) {
  const { id, state, path, act } = useProject();
  const take = (file: File) =>
    file.text().then((text) =>
      act(async () => {
        const done = await data(api.POST("/api/projects/{project_id}/recipes/file", { params: path, body: { text } }));
        return done;
      }, "Recipes taken over"),
    );
  const items: MenuProps["items"] = [
    ...state.recipes.map((r) => ({
      key: String(r.id),
      label: r.name,
      disabled: !(r.treatments as Treatment[]).every(allowed),
    })),
    ...(state.recipes.length ? [{ type: "divider" as const }] : []),
    { key: "save", label: "Save them all as a file", disabled: !state.recipes.length },
    { key: "open", label: "Take recipes over from a file…" },
  ];
  const choose: MenuProps["onClick"] = ({ key }) => {
    if (key === "save") window.location.assign(`/api/projects/${id}/recipes/file`);
    else if (key === "open") {
      const picker = Object.assign(document.createElement("input"), { type: "file", accept: ".json" });
      picker.onchange = () => picker.files?.[0] && void take(picker.files[0]);
      picker.click();
    } else {
      const found = state.recipes.find((r) => String(r.id) === key);
      if (found) void add(found.treatments as Treatment[]);
    }
  };
  return (
    <Dropdown menu={{ items, onClick: choose }} trigger={["click"]}>
      <Button size="small" data-testid="recipes" style={{ marginTop: 6, marginLeft: 4 }}>
        Recipes… {state.recipes.length || ""}
      </Button>
    </Dropdown>
  );
}
