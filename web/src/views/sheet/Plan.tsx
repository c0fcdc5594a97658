import { shotsOf } from "../../api/lanes";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { Button, Checkbox } from "antd";
import { useState } from "react";
import { api, data, type EditView, type Schemas } from "../../api/client";
import { useEdit, useProject } from "../../api/project";
import { within } from "../../api/facts";
import { classes } from "../../parts/classes";
import { useKept } from "../../parts/kept";
import { NumberField } from "../../parts/NumberField";
import { clock } from "../../player/clock";
import { hueOf } from "../../theme";
import styles from "./Plan.module.css";
import { arithmetic, type Planned, partsIn, rulesOff } from "./plan";
import { TextButton } from "../../parts/TextButton";

const cx = classes(styles);
type Pace = NonNullable<Schemas["PlanSection"]["pace"]>;
type RuleOf = Schemas["RuleView"]["of"];
const GROUPS: [RuleOf, string][] = [
  ["lengths", "How long shots are"],
  ["angles", "Which angle"],
  ["clips", "Which clip"],
];

/** The plan: for each section how long shots are, how much B-roll and who leads; what it would make is seen at once. */
export function Plan() {
  const { id, state, path, ofEdit, rate, act, ahead, operate } = useProject();
  const edit = useEdit();
  const cache = useQueryClient();
  const [seed, setSeed] = useState(1);
  const [without, setWithout] = useKept<readonly string[]>(rulesOff(id), []);
  const [rules, setRules] = useState(false);
  const plan = useQuery({
    queryKey: ["plan", id, edit?.undo, edit?.redo, state.lead, state.song?.sections],
    queryFn: () => data(api.GET("/api/v1/projects/{project_id}/plan", { params: path })),
    placeholderData: (before) => before,
  });
  const carry = { op: "rough cut" as const, seed, without: [...without] };
  const made = useQuery({
    queryKey: ["planned", id, plan.data?.sections, seed, without, shotsOf(edit)],
    queryFn: () => ahead(carry),
    enabled: plan.data !== undefined,
    retry: false,
    placeholderData: (before) => before,
  });
  const judged = useQuery({
    queryKey: ["planned judged", id, plan.data?.sections, seed, without, shotsOf(edit)],
    queryFn: () =>
      data(api.POST("/api/v1/projects/{project_id}/edits/{edit_id}/judged", { params: ofEdit(), body: carry })),
    enabled: made.data !== undefined,
    retry: false,
    placeholderData: (before) => before,
  });
  if (!plan.data || !edit) return <p className="soft">{plan.error?.message ?? "Looking at the music…"}</p>;
  const set = async (section: number, pace: Pace | null) => {
    await act(() =>
      data(
        api.PUT("/api/v1/projects/{project_id}/plan/{section_id}", {
          params: { path: { project_id: id, section_id: section } },
          body: { pace },
        }),
      ),
    );
    void cache.invalidateQueries({ queryKey: ["plan", id] });
  };
  const take = (part?: Planned) => operate({ ...carry, ...(part ? { first: part.first, end: part.end } : {}) });
  const falls = judged.data?.falls;
  const cuts = Object.values(falls ?? {}).reduce((a, b) => a + b, 0);
  return (
    <div className={cx("plan")} data-testid="plan">
      <div className={cx("head")}>
        <Button type="primary" size="small" onClick={() => void take()} disabled={!made.data} data-testid="take-plan">
          Cut the song as planned
        </Button>
        <Button
          size="small"
          onClick={() => setSeed(seed + 1)}
          data-testid="shuffle"
          title="The same plan, other choices"
        >
          Shuffle
        </Button>
        <Button size="small" onClick={() => setRules(!rules)} data-testid="rules">
          {without.length ? `Rules, ${without.length} off` : "Rules"}
        </Button>
        <span className="soft" data-testid="arithmetic">
          {made.error
            ? made.error.message
            : made.data
              ? arithmetic(made.data, state, rate, falls?.bar ?? 0, cuts)
              : "…"}
        </span>
      </div>
      {rules && (
        <div className={cx("rules")}>
          {GROUPS.map(([of, words]) => (
            <div key={of}>
              <b>{words}</b>
              {plan.data.rules
                .filter((r) => r.of === of)
                .map((r) => (
                  <Checkbox
                    key={r.name}
                    checked={!without.includes(r.name)}
                    onChange={(e) =>
                      setWithout(e.target.checked ? without.filter((w) => w !== r.name) : [...without, r.name])
                    }
                    data-testid={`rule-${r.name}`}
                  >
                    {r.words}
                  </Checkbox>
                ))}
            </div>
          ))}
        </div>
      )}
      <div className={cx("sections")}>
        {plan.data.sections.map((part) => (
          <Section
            key={part.section}
            part={part}
            made={made.data}
            now={edit}
            set={(pace) => void set(part.section, pace)}
            take={() => void take(part)}
          />
        ))}
      </div>
    </div>
  );
}

interface SectionProps {
  part: Planned;
  made: EditView | undefined;
  now: EditView;
  set: (pace: Pace | null) => void;
  take: () => void;
}

function Section({ part, made, now, set, take }: SectionProps) {
  const { state, path, act } = useProject();
  const own = state.song?.sections.find((s) => s.id === part.section)?.lead;
  const lead = (frames: number | null) =>
    act(() =>
      data(
        api.PATCH("/api/v1/projects/{project_id}/settings", {
          params: path,
          body: { section: part.section, lead: frames },
        }),
      ),
    );
  const pace: Pace = { shortest: part.shortest, longest: part.longest, broll: part.broll, leads: part.leads };
  const change = (more: Partial<Pace>) => {
    const next = { ...pace, ...more };
    if (more.shortest) next.longest = Math.max(next.longest, more.shortest);
    if (more.longest) next.shortest = Math.min(next.shortest, more.longest);
    set(next);
  };
  return (
    <section className={cx("section")} data-testid={`plan-${part.name}`}>
      <div className={cx("line")}>
        <b className={cx("name")}>{part.name}</b>
        <span className={cx("energy")} title={`Energy of its music: ${Math.round(100 * part.energy)} % of the most`}>
          <i style={{ width: `${100 * part.energy}%` }} />
        </span>
        <span>shots of</span>
        <NumberField
          {...within("beats")}
          value={part.shortest}
          change={(v) => change({ shortest: v })}
          aria-label={`Shortest shots of ${part.name}, in beats`}
          className={cx("beats")}
        />
        <span>to</span>
        <NumberField
          {...within("beats")}
          value={part.longest}
          change={(v) => change({ longest: v })}
          aria-label={`Longest shots of ${part.name}, in beats`}
          className={cx("beats")}
        />
        <span>beats,</span>
        <NumberField
          {...within("share", 100)}
          step={5}
          value={Math.round(100 * part.broll)}
          change={(v) => change({ broll: v / 100 })}
          suffix="% B-roll"
          aria-label={`Share of B-roll in ${part.name}`}
          className={cx("share")}
        />
        <span className={cx("leads")} title="Angles that lead here">
          {state.angles.map((a) => (
            <button
              type="button"
              key={a.id}
              className={cx(part.leads.includes(a.id) ? "lead on" : "lead")}
              style={{ ["--hue" as string]: hueOf(a.hue) }}
              onClick={() =>
                change({
                  leads: part.leads.includes(a.id) ? part.leads.filter((x) => x !== a.id) : [...part.leads, a.id],
                })
              }
              aria-pressed={part.leads.includes(a.id)}
              aria-label={`${a.number}: ${a.name} leads in ${part.name}`}
              title={`${a.name} leads`}
            >
              {a.number}
            </button>
          ))}
        </span>
        <NumberField
          {...within("lead")}
          value={own ?? state.lead}
          change={(v) => lead(v === state.lead ? null : v)}
          suffix="f lead"
          aria-label={`Lead in ${part.name}, in frames`}
          className={cx("lead-frames")}
        />
        <span className="grow" />
        {part.by_hand && <TextButton onClick={() => set(null)}>by its music</TextButton>}
        <Button size="small" onClick={take} data-testid={`take-${part.name}`}>
          Cut it so
        </Button>
      </div>
      {made && <Strip edit={made} part={part} what="planned" />}
      <Strip edit={now} part={part} what="now" />
    </section>
  );
}

/** The shots of a section as a strip: an angle by its number and colour, clips by a B. */
function Strip({ edit, part, what }: { edit: EditView; part: Planned; what: "planned" | "now" }) {
  const { state, rate } = useProject();
  return (
    <div className={cx(what === "now" ? "strip now" : "strip")} data-testid={`strip-${what}`}>
      {partsIn(shotsOf(edit), part).map(({ shot, left, width }) => {
        const angle = state.angles.find((a) => a.id === shot.source.angle);
        const file = state.media.find((m) => m.id === shot.source.media);
        return (
          <button
            type="button"
            key={shot.start}
            className={cx(shot.held ? "cell held" : "cell")}
            style={{
              left: `${100 * left}%`,
              width: `${100 * width}%`,
              ["--hue" as string]: angle ? hueOf(angle.hue) : "var(--soft)",
            }}
            onClick={() => clock.seek((Math.max(shot.start, part.first) + 0.001) / rate)}
            title={`${what === "now" ? "now: " : ""}${angle?.name ?? file?.name ?? (shot.source.kind === "empty" ? "an empty slot" : "black")}${shot.held ? ", held" : ""}`}
          >
            {what === "planned"
              ? (angle?.number ?? (shot.source.kind === "clip" ? "B" : shot.source.kind === "empty" ? "?" : "–"))
              : ""}
          </button>
        );
      })}
    </div>
  );
}
