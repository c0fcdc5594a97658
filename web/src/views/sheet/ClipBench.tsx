import { Button, Segmented, Switch } from "antd";
import { useEffect, useRef } from "react";
import { useNavigate } from "react-router";
import type { MediaView, Unit } from "../../api/client";
import { useEdit, useProject } from "../../api/project";
import { ClipRange } from "../../parts/broll/ClipRange";
import { ClipStrip } from "../../parts/broll/ClipStrip";
import { itemsOf } from "../../parts/broll/items";
import { lookAt } from "../../parts/broll/looking";
import { useLook } from "../../parts/broll/useLook";
import { classes } from "../../parts/classes";
import { barBeat } from "../../parts/format";
import { Still } from "../../parts/Still";
import { TextButton } from "../../parts/TextButton";
import { clock, useClock } from "../../player/clock";
import { useSheetActions } from "./actions";
import { chooseLaying, chooseOther, useChoice } from "./choice";
import styles from "./ClipBench.module.css";
import { shotAt } from "./falls";
import { useGhost } from "./Ghost";
import { BY, WAYS, wordsOf } from "./laying";

const cx = classes(styles);

/** The chosen clip beside the programme: played, its in and out set, and laid in each way there is. */
export function ClipBench({ clip }: { clip: MediaView }) {
  const { id, state, rate } = useProject();
  const edit = useEdit();
  const navigate = useNavigate();
  const chosen = useChoice((c) => c.select);
  const keys = useChoice((c) => c.benchKeys);
  const look = useLook({
    clip,
    chosen,
    open: (media, select) => useChoice.setState({ clip: media, select }),
    next: chooseOther,
    leave: () => useChoice.setState({ benchKeys: false }),
    keys,
  });
  const { player, range, select } = look;
  // The song that plays has the keys again.
  useEffect(() => useClock.subscribe((song) => song.playing && useChoice.setState({ benchKeys: false })), []);
  const uses = itemsOf(state.media, state.selects, edit, true).find(
    (i) => i.clip.id === clip.id && (i.select?.id ?? null) === (select?.id ?? null),
  )?.uses;
  const song = state.song;
  // The keys are its own while it has them: so is the focus, which a card would else use for Space.
  const section = useRef<HTMLElement>(null);
  // biome-ignore lint/correctness/useExhaustiveDependencies: each clip that is opened takes the focus
  useEffect(() => {
    if (keys && !section.current?.contains(document.activeElement)) section.current?.focus({ preventScroll: true });
  }, [keys, clip.id]);
  return (
    <section
      ref={section}
      tabIndex={-1}
      className={cx(keys ? "bench on" : "bench")}
      onPointerDownCapture={() => useChoice.setState({ benchKeys: true })}
      data-testid="clip-bench"
      data-in={range[0].toFixed(4)}
      data-out={range[1].toFixed(4)}
      aria-label={`Bench of ${clip.name}`}
    >
      <div className={cx("top")}>
        {clip.still ? (
          <div className={cx("picture")}>
            <Still media={clip.id} at={0} width={250} />
          </div>
        ) : (
          <canvas
            ref={player.canvas}
            className={cx("picture")}
            width={500}
            height={Math.round((500 * state.height) / state.width / 2) * 2}
            role="img"
            aria-label={`Frame of ${clip.name}`}
            data-testid="bench-picture"
            onClick={() => player.play(player.speed ? 0 : 1)}
          />
        )}
        <div className={cx("facts")}>
          <b>{select?.name ?? clip.name}</b>
          <span className="soft">
            {clip.still ? "a still" : `${clip.rate} f/s · ${player.at.toFixed(2)} of ${clip.seconds.toFixed(2)} s`}
          </span>
          <span className={cx("uses")}>
            {uses?.length ? `laid ${uses.length === 1 ? "once" : `${uses.length} times`}` : "not laid yet"}
            {song &&
              uses?.slice(0, 3).map((use) => (
                <TextButton
                  key={use.start}
                  onClick={() => clock.seek((use.start + 0.001) / rate)}
                  title="Go there"
                  data-testid="use"
                >
                  {barBeat(song, (use.start + 0.5) / rate)}
                </TextButton>
              ))}
          </span>
          <span className="soft">
            {keys ? "space, J K L, I O, M play and mark it, Alt and arrows jump" : "click it: keys play it"} · Esc{" "}
            {keys ? "to the song" : "closes"}
          </span>
          <span className={cx("leave")}>
            <TextButton
              onClick={() => {
                lookAt(clip.id, select?.id ?? null);
                navigate(`/p/${id}/coverage`);
              }}
            >
              large on Coverage
            </TextButton>
            <TextButton
              onClick={() => useChoice.setState({ bench: false, benchKeys: false })}
              data-testid="close-bench"
            >
              close
            </TextButton>
          </span>
        </div>
      </div>
      {!clip.still && <ClipStrip clip={clip} look={look} stills={8} />}
      {!clip.still && (
        <div className={cx("line")}>
          <ClipRange look={look} brief />
        </div>
      )}
      <Laying />
    </section>
  );
}

/** How the clip is laid: what of it is seen, and each way by its button and its key. */
function Laying() {
  const { state, rate } = useProject();
  const edit = useEdit();
  const actions = useSheetActions();
  const { by, way, thenPlace } = useChoice();
  const slot = shotAt(edit, Math.floor(clock.position() * rate + 1e-4))?.source.kind === "empty";
  return (
    <>
      <div className={cx("line")}>
        <Segmented
          size="small"
          value={by}
          onChange={(value) => chooseLaying({ by: value })}
          options={BY.map(({ value, label, title }) => ({ value, label, title }))}
          data-testid="laid-by"
        />
        <span className="grow" />
        <span className={cx("then")} title="After laying, the playhead goes to the next slot, mark or place">
          then on{" "}
          <Switch
            size="small"
            checked={thenPlace}
            onChange={(on) => chooseLaying({ thenPlace: on })}
            aria-label="Go on to the next place"
          />
        </span>
      </div>
      <div className={cx("ways")}>
        {WAYS.map(({ way: one, shown, title }) => (
          <Button
            key={one}
            size="small"
            type={one === way ? "primary" : "default"}
            onClick={() => void actions.lay(one)}
            onPointerEnter={() => useChoice.setState({ tried: one })}
            onPointerLeave={() => useChoice.setState({ tried: null })}
            onFocus={() => useChoice.setState({ tried: one })}
            onBlur={() => useChoice.setState({ tried: null })}
            title={title}
            data-testid={`lay-${one}`}
          >
            {wordsOf(one, state.unit as Unit, slot)} <kbd>{shown}</kbd>
          </Button>
        ))}
      </div>
      <GhostWords />
    </>
  );
}

/** What would come, in words, and what helps where it would not. */
function GhostWords() {
  const { state, rate, operate } = useProject();
  const { body, place, words } = useGhost();
  if (!body || (!place && !words)) return <p className={cx("words soft")}>The playhead says where it comes.</p>;
  const lay = (change: Partial<typeof body>) => void operate({ ...body, ...change });
  return (
    <p className={cx("words")} data-testid="ghost-words">
      {place && state.song && (
        <span>
          {place.end - place.first} f from {barBeat(state.song, (place.first + 0.5) / rate)}: {place.in_s.toFixed(2)} to{" "}
          {place.out_s.toFixed(2)} s{place.speed !== 1 ? ` at ${Math.round(100 * place.speed)} %` : ""}.{" "}
        </span>
      )}
      {words && <span className="bad">{place?.reaches ? `${place.missing} f short: ` : `${words} `}</span>}
      {place?.reaches && (
        <TextButton onClick={() => lay({ speed: place.reaches as number })} data-testid="slow-to-fit">
          lay it at {Math.round(100 * place.reaches)} %
        </TextButton>
      )}
      {place && place.missing > 0 && body.way !== "own" && (
        <>
          {" · "}
          <TextButton onClick={() => lay({ way: "own" })}>in its own length</TextButton>
        </>
      )}
    </p>
  );
}
