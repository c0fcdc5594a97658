import { Button, Checkbox, ColorPicker, Input, Segmented, Select } from "antd";
import { type ReactNode, useRef, useState } from "react";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, data, type ItemView } from "../../../api/client";
import { itemBy } from "../../../api/lanes";
import { TITLES } from "../../../api/facts";
import { useEdit, useProject } from "../../../api/project";
import { barBeat } from "../../../parts/format";
import { classes } from "../../../parts/classes";
import { NumberField } from "../../../parts/NumberField";
import { TextButton } from "../../../parts/TextButton";
import { lengthOf } from "../passage";
import { useChoice } from "../choice";
import { inWords } from "../treating/kinds";
import { ANCHORS, chosenIn, type Full, type Line, nameOf, styledPart, typed } from "./card";
import { KeepStyle } from "./styles";
import styles from "./Titles.module.css";
import { useCard } from "./useCard";
import { useCardSet } from "./useCardSet";
import { useContrasts } from "./useContrasts";

const cx = classes(styles);

/** The title that is chosen, under the rows: its words, its letters, where it stands, and what is done to it. */
export function CardBench() {
  const edit = useEdit();
  const item = itemBy(
    edit,
    useChoice((c) => c.item),
  );
  const treating = useChoice((c) => c.treating);
  if (!item?.source.card || treating) return null;
  return <Bench key={item.id} item={item} />;
}

function Bench({ item }: { item: ItemView }) {
  const { state, rate, operate } = useProject();
  const { card, change, type, done } = useCard(item);
  const set = useCardSet(card);
  // Lines that are deleted and typed anew have their styles again.
  const styles = useRef(card.lines);
  const write = (text: string) => {
    if (card.lines.length >= styles.current.length) styles.current = card.lines;
    type({ lines: typed(styles.current, text) });
  };
  const [chosen, setChosen] = useState<ReturnType<typeof chosenIn>>(null);
  const song = state.song;
  const end = () => useChoice.setState({ item: null });
  return (
    <section className={cx("bench")} data-testid="card-bench" aria-label={`Title ${nameOf(item)}`}>
      <div className={cx("head")}>
        <h3>Title</h3>
        {song && (
          <span className="soft">
            bar {barBeat(song, (item.start + 0.5) / rate)} to {barBeat(song, (item.end - 0.5) / rate)} ·{" "}
            {lengthOf(song, item, rate)}
            {item.source.line !== null && <Follows item={item} />}
          </span>
        )}
        <span className={cx("grow")} />
        <KeepStyle card={card} />
        <Button size="small" onClick={() => useChoice.setState({ treating: "here" })} title="Key E">
          {item.treated ? `Treated: ${inWords(item)}` : "Treat it…"}
        </Button>
        <Button
          size="small"
          onClick={() => {
            void operate({ op: "take off", item: item.id });
            end();
          }}
        >
          Take off
        </Button>
        <Button size="small" onClick={end} title="Esc">
          Close
        </Button>
      </div>
      <div className={cx("body")}>
        <div className={cx("words")}>
          <Input.TextArea
            value={card.lines.map((l) => l.text).join("\n")}
            autoSize={{ minRows: 2, maxRows: 5 }}
            onChange={(e) => write(e.target.value)}
            onSelect={(e) => {
              const { selectionStart, selectionEnd, value } = e.currentTarget;
              setChosen(chosenIn(value, selectionStart, selectionEnd));
            }}
            onBlur={done}
            aria-label="Words of the title"
            data-testid="card-words"
          />
          {chosen && card.lines[chosen.line] && <Chosen card={card} change={change} {...chosen} />}
          {card.lines.length > 1 && <Lines card={card} change={change} />}
          <Readable item={item} />
          {set?.stand_in && (
            <p className="bad" data-testid="card-stand-in">
              {set.stand_in}
            </p>
          )}
          {set && set.missing.length > 0 && (
            <p className="bad" data-testid="card-missing">
              No font has {set.missing.map((m) => `“${m}”`).join(", ")}: an empty box is seen.
            </p>
          )}
        </div>
        <Letters card={card} change={change} />
        <Standing card={card} change={change} />
      </div>
    </section>
  );
}

/** What of it was changed by hand, and the way back to its line. */
function Follows({ item }: { item: ItemView }) {
  const { id, operate } = useProject();
  const edit = useEdit();
  const { data: line } = useQuery({
    queryKey: ["title line", id, edit?.id, edit?.version, item.id],
    queryFn: () =>
      data(
        api.GET("/api/v1/projects/{project_id}/edits/{edit_id}/titles/{item}/line", {
          params: { path: { project_id: id, edit_id: edit?.id ?? 0, item: item.id } },
        }),
      ),
    placeholderData: keepPreviousData,
    retry: false,
  });
  return (
    <>
      {" · follows a line of the lyrics"}
      {line?.by_hand.map((part) => (
        <span key={part} data-testid={`by-hand-${part}`}>
          {` · by hand: ${part} `}
          <TextButton
            onClick={() => void operate({ op: "follow line", items: [item.id], parts: [part] })}
            title="As the line has it again"
          >
            give back
          </TextButton>
        </span>
      ))}
    </>
  );
}

/** Its contrast against the pictures under it, as they are now. */
function Readable({ item }: { item: ItemView }) {
  const found = useContrasts(item.id)?.[0];
  if (!found?.ratio) return null;
  return (
    <p className={found.text ? "bad" : "soft"} data-testid="card-contrast" title={found.text}>
      Contrast {found.ratio.toFixed(1)} : 1{found.text && ", hard to read: an outline, a shadow or a box helps"}
    </p>
  );
}

interface Part {
  card: Full;
  change: (more: Partial<Full>) => void;
}

/** The letters that are selected in the words, in a size, weight and colour of their own. */
function Chosen({ card, change, line, first, end }: Part & { line: number; first: number; end: number }) {
  const of = card.lines[line] as Line;
  const part = of.parts?.find((p) => p.first <= first && first < p.end);
  const set = (more: Parameters<typeof styledPart>[3]) =>
    change({
      lines: card.lines.map((l, i) => (i === line ? { ...l, parts: styledPart(l.parts ?? [], first, end, more) } : l)),
    });
  const [min, max] = TITLES.line_sizes;
  return (
    <div className={cx("line")} data-testid="card-part">
      <span className={cx("line-text")} title="What is selected above">
        {of.text.slice(first, end)}
      </span>
      <NumberField
        value={Math.round(100 * (part?.size ?? 1))}
        min={100 * min}
        max={100 * max}
        suffix="%"
        change={(size) => set({ size: size / 100 })}
        aria-label="Size of the selected letters"
        style={{ width: 68 }}
      />
      <Checkbox checked={part?.bold ?? of.bold ?? card.bold} onChange={(e) => set({ bold: e.target.checked })}>
        heavy
      </Checkbox>
      <ColorPicker
        size="small"
        disabledAlpha
        value={part?.colour ?? of.colour ?? card.colour}
        onChangeComplete={(c) => set({ colour: c.toHexString().slice(0, 7) })}
        aria-label="Colour of the selected letters"
      />
      <TextButton onClick={() => set({ size: 1, bold: null, colour: null })} title="As the rest of the line">
        plain
      </TextButton>
    </div>
  );
}

/** Each line in its own size and weight. */
function Lines({ card, change }: Part) {
  const set = (index: number, more: Partial<Line>) =>
    change({ lines: card.lines.map((line, i) => (i === index ? { ...line, ...more } : line)) });
  const [min, max] = TITLES.line_sizes;
  return (
    <div className={cx("lines")}>
      {card.lines.map((line, i) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: lines in their order
        <div key={i} className={cx("line")}>
          <span className={cx("line-text")}>{line.text || "empty"}</span>
          <NumberField
            value={Math.round(100 * (line.size ?? 1))}
            min={100 * min}
            max={100 * max}
            suffix="%"
            change={(size) => set(i, { size: size / 100 })}
            aria-label={`Size of line ${i + 1}`}
            style={{ width: 68 }}
          />
          <Checkbox checked={line.bold ?? card.bold} onChange={(e) => set(i, { bold: e.target.checked })}>
            heavy
          </Checkbox>
          <ColorPicker
            size="small"
            disabledAlpha
            value={line.colour ?? card.colour}
            onChangeComplete={(c) => set(i, { colour: c.toHexString().slice(0, 7) })}
            aria-label={`Colour of line ${i + 1}`}
          />
        </div>
      ))}
    </div>
  );
}

function Field({ name, children }: { name: string; children: ReactNode }) {
  return (
    <span className={cx("field")}>
      <span className="soft">{name}</span>
      {children}
    </span>
  );
}

function Percent({ card, change, of, name }: Part & { of: keyof typeof TITLES.limits; name: string }) {
  const [min, max] = TITLES.limits[of];
  return (
    <Field name={name}>
      <NumberField
        value={Math.round(1000 * (card[of] as number)) / 10}
        min={100 * min}
        max={100 * max}
        step={of === "size" ? 0.5 : 1}
        suffix="%"
        change={(value) => change({ [of]: value / 100 })}
        aria-label={name}
        style={{ width: 72 }}
      />
    </Field>
  );
}

function Colour({
  card,
  change,
  of,
  name,
}: Part & { of: "colour" | "outline_colour" | "shadow_colour" | "box"; name: string }) {
  return (
    <ColorPicker
      size="small"
      disabledAlpha
      value={card[of] || "#1e2230"}
      onChangeComplete={(c) => change({ [of]: c.toHexString().slice(0, 7) })}
      aria-label={name}
    />
  );
}

/** The choice of a font that is a file. */
const FILE = "file" as const;

/** The path of a font file inside an allowed media folder; written once it is typed whole. */
function FontFile({ value, set }: { value: string; set: (path: string) => void }) {
  const [path, setPath] = useState(value);
  const done = () => path.trim() !== value && set(path.trim());
  return (
    <Input
      size="small"
      value={path}
      onChange={(e) => setPath(e.target.value)}
      onBlur={done}
      onPressEnter={done}
      placeholder="/path/of/a/font.otf"
      aria-label="Path of the font file"
      title="A font file inside an allowed media folder"
      data-testid="card-font-file"
      style={{ width: 190 }}
    />
  );
}

/** How its letters look. */
function Letters(part: Part) {
  const { card, change } = part;
  const [named, setNamed] = useState(card.file !== "");
  return (
    <div className={cx("fields letters")}>
      <Field name="font">
        <Select
          size="small"
          value={named ? FILE : card.font}
          onChange={(font) => {
            setNamed(font === FILE);
            if (font !== FILE) change({ font, file: "" });
          }}
          options={[...TITLES.fonts.map((value) => ({ value, label: value })), { value: FILE, label: "a font file…" }]}
          aria-label="Font"
          data-testid="card-font"
          popupMatchSelectWidth={false}
          style={{ width: 112 }}
        />
      </Field>
      {named ? (
        <FontFile value={card.file} set={(file) => change({ file })} />
      ) : (
        <Checkbox checked={card.bold} onChange={(e) => change({ bold: e.target.checked })}>
          heavy
        </Checkbox>
      )}
      <Percent {...part} of="size" name="size" />
      <Field name="colour">
        <Colour {...part} of="colour" name="Colour" />
      </Field>
      <Percent {...part} of="outline" name="outline" />
      {card.outline > 0 && <Colour {...part} of="outline_colour" name="Colour of the outline" />}
      <Percent {...part} of="shadow" name="shadow" />
      {card.shadow > 0 && <Colour {...part} of="shadow_colour" name="Colour of the shadow" />}
      <Checkbox checked={Boolean(card.box)} onChange={(e) => change({ box: e.target.checked ? "#1e2230" : "" })}>
        box
      </Checkbox>
      {card.box && <Colour {...part} of="box" name="Colour of the box" />}
      {card.box && <Percent {...part} of="box_opacity" name="hides" />}
      <Percent {...part} of="tracking" name="tracking" />
      {card.lines.length > 1 && <Percent {...part} of="spacing" name="lines" />}
    </div>
  );
}

/** Where it stands in the frame. */
function Standing(part: Part) {
  const { card, change } = part;
  return (
    <div className={cx("standing")}>
      <div className={cx("anchors")} role="radiogroup" aria-label="Place in the safe area">
        {ANCHORS.map((anchor) => (
          <button
            key={anchor}
            type="button"
            role="radio"
            aria-checked={card.anchor === anchor}
            aria-label={anchor}
            title={anchor}
            className={cx(card.anchor === anchor ? "anchor on" : "anchor")}
            onClick={() => change({ anchor, x: 0, y: 0 })}
            data-testid={`anchor-${anchor.replace(" ", "-")}`}
          />
        ))}
      </div>
      <div className={cx("fields")}>
        <Percent {...part} of="x" name="across" />
        <Percent {...part} of="y" name="down" />
        <Field name="turn">
          <NumberField
            value={card.turn}
            min={TITLES.limits.turn[0]}
            max={TITLES.limits.turn[1]}
            suffix="°"
            change={(turn) => change({ turn })}
            aria-label="Turn"
            style={{ width: 68 }}
          />
        </Field>
        <Segmented
          size="small"
          value={card.align}
          onChange={(align) => change({ align })}
          options={TITLES.aligns}
          aria-label="Lines are"
        />
        <span className="soft">or drag it on the picture</span>
      </div>
    </div>
  );
}
