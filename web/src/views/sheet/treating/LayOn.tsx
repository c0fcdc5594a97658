import { App, Button, Dropdown, type MenuProps } from "antd";
import { useProject } from "../../../api/project";
import type { Others, Treatment } from "./kinds";

/** Lays treatments on other shots too: those of the angle, of the section, all that are alike. */
export function LayOn({ others, list }: { others: Others[]; list: Treatment[] }) {
  const { operate } = useProject();
  const { message } = App.useApp();
  const layOn: MenuProps["items"] = others.map((o) => ({ key: o.key, label: `${o.label} (${o.items.length})` }));
  const lay: MenuProps["onClick"] = async ({ key: which }) => {
    const found = others.find((o) => o.key === which);
    if (found && (await operate({ op: "treat", items: found.items, treatments: list })))
      void message.success(`${found.items.length} shots are treated alike; Undo takes it back.`, 3);
  };
  return (
    <Dropdown autoFocus menu={{ items: layOn, onClick: (info) => void lay(info) }} trigger={["click"]}>
      <Button size="small" data-testid="lay-on-others">
        Lay on other shots…
      </Button>
    </Dropdown>
  );
}
