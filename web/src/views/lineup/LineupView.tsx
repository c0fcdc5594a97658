import { App, Button, Dropdown, Segmented, Select, Upload } from "antd";
import { useMemo, useState } from "react";
import { isOpen, useJobs } from "../../api/jobs";
import { useProject } from "../../api/project";
import { EmptyPage, GoToSong } from "../../parts/EmptyPage";
import { FilePicker } from "../../parts/FilePicker";
import { LabelFiles, useLabel } from "../../parts/LabelFiles";
import { type BatchAction, useLineupActions } from "./actions";
import { Bench } from "./Bench";
import { AgreedCuts } from "./CutOnSet";
import { Undecided } from "./Undecided";
import { listed, type Order, STATUS } from "./lineup";
import { TakeRow } from "./TakeRow";
import { Wall } from "./Wall";
import styles from "./LineupView.module.css";
import { classes } from "../../parts/classes";

const cx = classes(styles);

const BATCH: { action: BatchAction; label: string }[] = [
  { action: "accept", label: "Lock" },
  { action: "redo", label: "Look again" },
  { action: "unlock", label: "Unlock" },
  { action: "clear", label: "Clear" },
];

/** Every take and where it lies in the song, with a bench for the chosen one. */
export function LineupView() {
  const { state } = useProject();
  const [order, setOrder] = useState<Order>("doubtful");
  const [status, setStatus] = useState("");
  const [camera, setCamera] = useState("");
  const [section, setSection] = useState<number | null>(null);
  const [chosen, setChosen] = useState<string | null>(null);
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set());
  const [picking, setPicking] = useState(false);
  const [together, setTogether] = useState(false);
  const files = useMemo(() => new Map(state.media.map((m) => [m.id, m])), [state.media]);
  const within = state.song?.sections.find((s) => s.id === section);
  const takes = useMemo(
    () => listed(state.takes, files, order, { status, camera, span: within ? [within.start_s, within.end_s] : null }),
    [state.takes, files, order, status, camera, within],
  );
  // The chosen take stays on the bench when what was done to it takes it out of the list.
  const take = state.takes.find((t) => t.media === chosen) ?? takes[0];
  if (!state.song)
    return (
      <EmptyPage now="lineup" title="Takes are lined up to the song. Add the song first.">
        <GoToSong />
      </EmptyPage>
    );
  const picker = <FilePicker kind="take" open={picking} close={() => setPicking(false)} />;
  if (!state.takes.length)
    return (
      <>
        <EmptyPage
          now="lineup"
          title="No takes yet. Add every recording of the performance: Zembi finds where each one lies in the song, by its sound alone and within seconds. A film of clips alone needs none."
        >
          <Button type="primary" onClick={() => setPicking(true)} data-testid="add-takes">
            Add takes…
          </Button>
        </EmptyPage>
        {picker}
      </>
    );
  const cameras = [...new Set(state.takes.map((t) => files.get(t.media)?.camera ?? ""))].filter(Boolean);
  const mark = (media: string, on: boolean) => {
    const next = new Set(marked);
    if (on) next.add(media);
    else next.delete(media);
    setMarked(next);
  };
  const wanted = takes.filter((t) => marked.has(t.media)).map((t) => t.media);
  return (
    <div className={cx("lineup")}>
      <section className={cx("takes")}>
        <div className="tools">
          <b>{takes.length < state.takes.length ? `${takes.length} of ${state.takes.length}` : takes.length} takes</b>
          <span className="grow" />
          <Button
            type={together ? "primary" : "default"}
            onClick={() => setTogether(!together)}
            data-testid="watch-together"
          >
            Watch them all
          </Button>
          <FilesMenu />
          <Button onClick={() => setPicking(true)} data-testid="add-takes">
            Add takes…
          </Button>
        </div>
        <div className={cx("tools sieve")}>
          <Segmented
            size="small"
            value={order}
            onChange={(v) => setOrder(v as Order)}
            options={[
              { label: "doubtful", value: "doubtful" },
              { label: "camera", value: "camera" },
              { label: "song", value: "place" },
            ]}
          />
          <Select
            size="small"
            value={status}
            onChange={setStatus}
            aria-label="Show takes by status"
            data-testid="sieve-status"
            popupMatchSelectWidth={false}
            options={[
              { value: "", label: "status" },
              { value: "open", label: "not locked" },
              ...Object.entries(STATUS).map(([value, s]) => ({ value, label: `${s.shape} ${s.word}` })),
            ]}
          />
          <Select
            size="small"
            value={camera}
            onChange={setCamera}
            aria-label="Show takes of a camera"
            popupMatchSelectWidth={false}
            options={[{ value: "", label: "camera" }, ...cameras.map((c) => ({ value: c, label: c }))]}
          />
          <Select
            size="small"
            value={section ?? 0}
            onChange={(v) => setSection(v || null)}
            aria-label="Show takes of a part of the song"
            popupMatchSelectWidth={false}
            options={[{ value: 0, label: "part" }, ...state.song.sections.map((s) => ({ value: s.id, label: s.name }))]}
          />
        </div>
        <AgreedCuts />
        <Undecided />
        {wanted.length > 0 && <BatchBar takes={wanted} done={() => setMarked(new Set())} />}
        {!takes.length && <p className="soft list-note">No take is like that.</p>}
        <div className={cx("take-list")} data-testid="takes">
          {takes.map((t) => (
            <TakeRow
              key={t.media}
              take={t}
              on={!together && t.media === take?.media}
              marked={marked.has(t.media)}
              mark={(on) => mark(t.media, on)}
              choose={() => {
                setChosen(t.media);
                setTogether(false);
              }}
            />
          ))}
        </div>
      </section>
      {together ? (
        <Wall
          choose={(media) => {
            setChosen(media);
            setTogether(false);
          }}
        />
      ) : take ? (
        <Bench key={take.media} take={take} />
      ) : (
        <div />
      )}
      {picker}
    </div>
  );
}

/** Actions on the marked takes, each as one step of undo. */
function BatchBar({ takes, done }: { takes: string[]; done: () => void }) {
  const { batch } = useLineupActions();
  const label = useLabel();
  const { message } = App.useApp();
  return (
    <div className={cx("tools batch")} data-testid="batch">
      <b>{takes.length} marked</b>
      {BATCH.map(({ action, label }) => (
        <Button
          key={action}
          size="small"
          data-testid={`batch-${action}`}
          onClick={async () => {
            const said = await batch(action, takes);
            if (said) void message.success(said, 3);
          }}
        >
          {label}
        </Button>
      ))}
      <LabelFiles ids={takes} />
      <Button
        size="small"
        data-testid="make-broll"
        title="Clips that are not tied to the song; their places in it go"
        onClick={() => void label(takes, { kind: "broll" }, "B-roll now, on Coverage").then(done)}
      >
        Make B-roll
      </Button>
      <span className="grow" />
      <Button size="small" type="text" onClick={done}>
        None
      </Button>
    </div>
  );
}

/** The line-up as open files: out, and a timeline back in. */
function FilesMenu() {
  const { id } = useProject();
  const { jobs } = useJobs();
  const { giveOut, read } = useLineupActions();
  const { message } = App.useApp();
  const written = jobs.filter((j) => j.kind === "lineup" && j.state === "done").at(-1);
  const writing = jobs.find((j) => j.kind === "lineup" && isOpen(j));
  return (
    <Dropdown
      autoFocus
      trigger={["click"]}
      menu={{
        items: [
          {
            key: "out",
            disabled: Boolean(writing),
            label: (
              <span data-testid="lineup-out">
                {writing
                  ? `Writing, ${Math.round(100 * writing.progress)} %`
                  : "Write the line-up: CSV, JSON, OTIO, WAV"}
              </span>
            ),
            onClick: () => void giveOut(),
          },
          ...(written
            ? [
                {
                  key: "get",
                  label: (
                    <a href={`/api/v1/projects/${id}/lineup/exports/${written.id}`} download data-testid="lineup-get">
                      Download {String(written.result.file ?? "it")}
                    </a>
                  ),
                },
              ]
            : []),
          {
            key: "in",
            label: (
              <Upload
                accept=".otio"
                showUploadList={false}
                beforeUpload={async (file) => {
                  const said = await read(file);
                  if (said) void message.success(`Read ${said}`, 4);
                  return false;
                }}
              >
                Place takes from an OTIO timeline…
              </Upload>
            ),
          },
        ],
      }}
    >
      <Button data-testid="lineup-files">Files</Button>
    </Dropdown>
  );
}
