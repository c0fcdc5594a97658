import { useQuery } from "@tanstack/react-query";
import { api, data, type MediaView } from "../../../api/client";
import { useProject } from "../../../api/project";
import { useKept } from "../../../parts/kept";
import { TextButton } from "../../../parts/TextButton";

/** A file that looks flat is said to look so, until somebody leaves it. */
export function Flat({ file }: { file: MediaView }) {
  const { id, state } = useProject();
  const [left, leave] = useKept<readonly string[]>("zembi flat files left", []);
  const coloured = state.media.map((m) => `${m.made_of}${m.table.number}${Object.keys(m.grade).length}`).join(" ");
  const flat = useQuery({
    queryKey: ["flat", id, coloured],
    queryFn: () => data(api.GET("/api/v1/projects/{project_id}/colour/flat", { params: { path: { project_id: id } } })),
  });
  if (!flat.data?.includes(file.id) || left.includes(file.made_of)) return null;
  return (
    <p data-testid="looks-flat">
      It looks flat: of little contrast and colour. Give it its camera's table, or bring it up under Balance.{" "}
      <TextButton onClick={() => leave([...left, file.made_of])}>leave it</TextButton>
    </p>
  );
}
