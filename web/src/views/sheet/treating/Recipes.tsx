import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Checkbox, Dropdown, Input, type MenuProps, Popover } from "antd";
import { useState } from "react";
import { api, data } from "../../../api/client";
import { useProject } from "../../../api/project";
import type { Treatment } from "./kinds";

/** Keeps treatments under a name, to be laid on other shots. */
export function KeepRecipe({ treatments }: { treatments: Treatment[] }) {
  const { path, act } = useProject();
  const [open, setOpen] = useState(false);
  const [name, setName] = useState("");
  const [everywhere, setEverywhere] = useState(false);
  const again = useAgain();
  const keep = () => {
    if (!name.trim()) return;
    setOpen(false);
    const body = { name: name.trim(), treatments };
    const kept = async () => {
      if (!everywhere) return data(api.POST("/api/v1/projects/{project_id}/recipes", { params: path, body }));
      await data(api.POST("/api/v1/recipes", { body }));
      return again();
    };
    void act(kept, `Kept as ${name.trim()}${everywhere ? " for all projects" : ""}`);
  };
  return (
    <Popover
      trigger="click"
      open={open}
      onOpenChange={setOpen}
      content={
        <>
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
          <div style={{ display: "flex", justifyContent: "space-between", alignItems: "center", marginTop: 6 }}>
            <Checkbox
              checked={everywhere}
              onChange={(e) => setEverywhere(e.target.checked)}
              data-testid="recipe-everywhere"
            >
              for all projects
            </Checkbox>
            <Button size="small" type="primary" disabled={!name.trim()} onClick={keep} data-testid="keep-named">
              Keep
            </Button>
          </div>
        </>
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

const SHARED = ["recipes for all"];

/** Asks anew for the recipes for all projects. */
function useAgain() {
  const client = useQueryClient();
  return () => client.invalidateQueries({ queryKey: SHARED });
}

/** The recipes that are kept, here and for all projects: lay one on, write them as a file, take others over. */
export function Recipes({ add, allowed }: Props) {
  const { id, state, path, act } = useProject();
  const again = useAgain();
  const shared = useQuery({ queryKey: SHARED, queryFn: () => data(api.GET("/api/v1/recipes")), retry: false });
  const take = (file: File, everywhere: boolean) =>
    file.text().then((text) =>
      act(async () => {
        const body = { text };
        if (!everywhere) return data(api.POST("/api/v1/projects/{project_id}/recipes/file", { params: path, body }));
        await data(api.POST("/api/v1/recipes/file", { body }));
        return again();
      }, "Recipes taken over"),
    );
  const group = (where: "here" | "all", label: string, kept: readonly { name: string; treatments: unknown }[]) => ({
    key: where,
    type: "group" as const,
    label,
    children: [
      ...kept.map((r) => ({
        key: `${where} lay ${r.name}`,
        label: r.name,
        disabled: !(r.treatments as Treatment[]).every(allowed),
      })),
      { key: `${where} save`, label: "Save them as a file", disabled: !kept.length },
      { key: `${where} open`, label: "Take over from a file…" },
    ],
  });
  const everywhere = shared.data ?? [];
  const items: MenuProps["items"] = [
    group("here", "of this project", state.recipes),
    group("all", shared.error ? shared.error.message : "for all projects", everywhere),
  ];
  const choose: MenuProps["onClick"] = ({ key }) => {
    const [where, what = "", ...name] = key.split(" ");
    if (what === "save")
      window.location.assign(where === "all" ? "/api/v1/recipes/file" : `/api/v1/projects/${id}/recipes/file`);
    else if (what === "open") {
      const picker = Object.assign(document.createElement("input"), { type: "file", accept: ".json" });
      picker.onchange = () => picker.files?.[0] && void take(picker.files[0], where === "all");
      picker.click();
    } else {
      const found = (where === "all" ? everywhere : state.recipes).find((r) => r.name === name.join(" "));
      if (found) void add(found.treatments as Treatment[]);
    }
  };
  return (
    <Dropdown autoFocus menu={{ items, onClick: choose }} trigger={["click"]}>
      <Button size="small" data-testid="recipes" style={{ marginTop: 6, marginLeft: 4 }}>
        Recipes… {state.recipes.length + everywhere.length || ""}
      </Button>
    </Dropdown>
  );
}
