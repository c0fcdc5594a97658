import { Button, Dropdown, type MenuProps } from "antd";
import { useEdit, useProject } from "../../../api/project";
import { begun, type OfClip, offeredFor, type Place, type Subject, songFades, type Treatment } from "./kinds";
import { Glyph } from "./Sign";

interface Props {
  subject: Subject;
  /** True where it shows an angle. */
  angle: boolean;
  /** True where there is a treatment already. */
  some: boolean;
  /** The place in the music and in the clip at which a new one begins. */
  here: Place;
  second: number;
  clip?: OfClip | undefined;
  add: (treatments: Treatment[]) => Promise<void>;
}

/** The button with every kind of treatment that can be added here. */
export function Offer({ subject, angle, some, here, second, clip, add }: Props) {
  const { state, rate } = useProject();
  const length = useEdit()?.length ?? 0;
  const level = state.level;
  const kinds = offeredFor(subject, angle);
  const more: MenuProps["items"] = (["words", "time", "colour", "picture"] as const)
    .filter((group) => kinds.some((o) => o.group === group))
    .map((group) => ({
      key: group,
      type: "group",
      label: { words: "words", time: "time", colour: "light and colour", picture: "picture" }[group],
      children: kinds
        .filter((o) => o.group === group)
        .map((o) => ({
          key: o.kind,
          label: (
            <span title={o.says} data-testid={`add-${o.kind}`}>
              <Glyph kind={o.kind} /> {o.word}
            </span>
          ),
        })),
    }));
  const fades = songFades(subject, length, level, rate);
  if (fades.length)
    more.unshift({
      key: "as the song",
      label: (
        <span data-testid="fade-as-song">
          fade as the song{" "}
          {fades.length > 1 ? "does" : subject.kind === "shot" && subject.start === 0 ? "begins" : "ends"}
        </span>
      ),
    });
  const offer: MenuProps["onClick"] = ({ key: kind }) => {
    if (kind === "as the song") return void add(fades);
    void add([begun(kind as Treatment["kind"], here, second, clip)]);
  };
  return (
    <Dropdown
      autoFocus
      menu={{ items: more, onClick: offer, style: { maxHeight: 380, overflowY: "auto" } }}
      trigger={["click"]}
    >
      <Button size="small" type={some ? "default" : "primary"} data-testid="add-treatment" style={{ marginTop: 6 }}>
        + {some ? "another" : "a treatment"}
      </Button>
    </Dropdown>
  );
}
