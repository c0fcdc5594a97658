import { api, data, type MediaView } from "../../../api/client";
import { TREATMENTS } from "../../../api/facts";
import { useProject } from "../../../api/project";
import { TextButton } from "../../../parts/TextButton";
import { changed, type Grade } from "../colour/grade";
import type { Treatment } from "./kinds";

interface Props {
  /** The file that is seen. */
  file: MediaView;
  /** The grade that is chosen among the treatments. */
  chosen: Grade | null;
  /** Take the chosen one off the shot. */
  take: () => Promise<unknown>;
  /** Add a treatment to the shot. */
  add: (treatments: Treatment[]) => Promise<void>;
}

/** The grade of the file itself, which every shot of it has: given from a shot, taken off, or brought onto a shot. */
export function FileGrade({ file, chosen, take, add }: Props) {
  const { act, id } = useProject();
  const give = (values: Record<string, number>) =>
    act(() =>
      data(
        api.PUT("/api/v1/projects/{project_id}/media/{media_id}/grade", {
          params: { path: { project_id: id, media_id: file.id } },
          body: { values },
        }),
      ),
    );
  const own = Object.entries(file.grade);
  if (!own.length && !chosen) return null;
  return (
    <p className="soft" data-testid="file-grade">
      {own.length > 0 && (
        <>
          The file “{file.name}” is graded wherever it is seen:{" "}
          {own.map(([name, value]) => `${name.replaceAll("_", " ")} ${value}`).join(", ")}.{" "}
          <TextButton onClick={() => void give({})}>Take it off the file</TextButton>{" "}
          {!chosen && (
            <TextButton
              onClick={() => {
                const grade = { ...TREATMENTS.grade?.begins, ...file.grade } as Treatment;
                void give({}).then((done) => done && add([grade]));
              }}
            >
              bring it onto this shot
            </TextButton>
          )}
        </>
      )}
      {chosen && Object.keys(changed(chosen)).length > 0 && (
        <TextButton
          onClick={() => void give(changed(chosen)).then((done) => done && take())}
          title={`Every shot of “${file.name}” is graded so, whatever is cut`}
          data-testid="give-to-file"
        >
          Give this grade to the file “{file.name}”
        </TextButton>
      )}
    </p>
  );
}
