import { create } from "zustand";
import { toSong, toWorking } from "../parts/format";
import type { HitKind } from "../api/client";
import { strokeSound } from "./strokes";
import { type Click, clickSound, curve, type Piece, type Plan, WHOLE } from "./plan";

/** Monitoring of a take beside the song on the bench. */
export type Listening = "left and right" | "mixed" | "in turn";

export interface Companion {
  buffer: AudioBuffer;
  takeStart: number;
  songStart: number;
  rate: number;
  how: Listening;
  beats: readonly number[];
}

interface ClockState {
  playing: boolean;
  speed: number;
  duration: number;
  ready: boolean;
  loop: [number, number] | null;
  gain: number;
  click: boolean;
}

/** State of the clock that the interface shows; the running position is asked from {@link clock} itself. */
export const useClock = create<ClockState>(() => ({
  playing: false,
  speed: 1,
  duration: 0,
  ready: false,
  loop: null,
  gain: 0.8,
  click: false,
}));

type Listener = (position: number) => void;

/** First delay before a song that could not be loaded is tried again; doubled each time, at most eight times. */
const AGAIN_MS = 1000;

/**
 * The song's clock. Web Audio plays the song and its time is the only time: pictures follow it.
 * Shuttle speeds other than 1 run silent on wall time.
 */
class Clock {
  private context: AudioContext | null = null;
  private song: AudioBuffer | null = null;
  private sources: AudioBufferSourceNode[] = [];
  private volume: GainNode | null = null;
  private companion: Companion | null = null;
  private startedAt = 0;
  private startedFrom = 0;
  private still = 0;
  private readonly listeners = new Set<Listener>();
  private loaded = "";
  private plan: Plan = WHOLE;
  private songTime = true;
  private clicks: readonly Click[] = [];
  private tried: readonly Click[] | null = null;
  private hits: readonly Click[] = [];

  constructor() {
    const tick = () => {
      this.tick();
      requestAnimationFrame(tick);
    };
    if (typeof requestAnimationFrame !== "undefined") requestAnimationFrame(tick);
  }

  /** Be told the position on every screen refresh and jump; returns how to stop. */
  subscribe(listener: Listener): () => void {
    this.listeners.add(listener);
    listener(this.position());
    return () => this.listeners.delete(listener);
  }

  private audio(): AudioContext {
    this.context ??= new AudioContext({ latencyHint: "interactive" });
    return this.context;
  }

  /** Load a song to play; the same address is loaded once, and tried again until it is there or another is asked for. */
  async load(url: string, duration: number): Promise<void> {
    if (!this.song) useClock.setState({ duration });
    if (this.loaded === url) return;
    this.pause();
    this.loaded = url;
    this.song = null;
    this.still = 0;
    useClock.setState({ ready: false, loop: null });
    for (let wait = AGAIN_MS; this.loaded === url; wait = Math.min(2 * wait, 8 * AGAIN_MS)) {
      try {
        const song = await this.decode(url);
        if (this.loaded !== url) return;
        this.song = song;
        useClock.setState({ ready: true, duration: this.length() });
        return;
      } catch {
        await new Promise((done) => setTimeout(done, wait));
      }
    }
  }

  /** Decode a sound file for playing. */
  async decode(url: string): Promise<AudioBuffer> {
    const answer = await fetch(url);
    if (!answer.ok) throw new Error(`The sound could not be fetched (${answer.status}).`);
    return this.audio().decodeAudioData(await answer.arrayBuffer());
  }

  /** Position of the playhead, in seconds: of the whole song on views of the song, else of what is kept of it. */
  position(): number {
    return this.shown(this.inner());
  }

  /** The song's decoded sound, once it is there. */
  buffer(): AudioBuffer | null {
    return this.song;
  }

  /**
   * Set the kept pieces of the song, and whether positions are song time. The playhead stays at its moment.
   * With everything kept both times are the same.
   */
  follow(plan: Plan, songTime: boolean): void {
    const inner = this.inner();
    const moment = this.songTime ? this.position() : toSong(this.kept(), inner);
    const beyond = inner < 0 ? inner : Math.max(0, inner - this.length());
    const { playing, speed } = useClock.getState();
    this.plan = plan;
    this.songTime = songTime;
    useClock.setState({ duration: this.length() });
    // Before and after the song there is no moment of it: the playhead stays as far from its end.
    const at = beyond ? (beyond < 0 ? beyond : this.length() + beyond) : toWorking(this.kept(), moment);
    this.still = this.bounded(at);
    if (playing) {
      this.silence();
      useClock.setState({ playing: false });
      this.play(speed);
    }
    this.tell();
  }

  /** Set the times of the grid's clicks, in working time. */
  setClicks(clicks: readonly Click[]): void {
    this.clicks = clicks;
    const { playing, click, speed } = useClock.getState();
    if (playing && click && speed === 1) this.again();
  }

  /** Hear other clicks than the grid's, in working time, whether these are on or not; null for no others. */
  tryClicks(clicks: readonly Click[] | null): void {
    this.tried = clicks;
    const { playing, speed } = useClock.getState();
    if (playing && speed === 1) this.again();
    else if (clicks) this.play();
  }

  /** Hear hits over the song, each by the sound of its kind, in working time. */
  setHits(hits: readonly Click[]): void {
    if (!hits.length && !this.hits.length) return;
    this.hits = hits;
    const { playing, speed } = useClock.getState();
    if (playing && speed === 1) this.again();
  }

  /** Hear the grid as clicks, or not. */
  setClick(click: boolean): void {
    useClock.setState({ click });
    if (useClock.getState().playing) this.again();
  }

  private again(): void {
    const at = this.inner();
    this.silence();
    this.still = at;
    useClock.setState({ playing: false });
    this.play();
  }

  private kept(): readonly (readonly [number, number])[] {
    return this.plan.kept.length ? this.plan.kept : [[0, this.song?.duration ?? useClock.getState().duration]];
  }

  /** Played pieces: the programme's, or all of the song. */
  private pieces(song: AudioBuffer): readonly Piece[] {
    const whole = { at: 0, offset: 0, seconds: song.duration, fadeIn: 0, fadeOut: 0 };
    return this.plan.pieces.length ? this.plan.pieces : [whole];
  }

  private length(): number {
    const { kept } = this.plan;
    if (!kept.length) return this.song?.duration ?? useClock.getState().duration;
    return kept.reduce((sum, [a, b]) => sum + b - a, 0);
  }

  /** A working time inside the film, which may begin before the song and end after it. */
  private bounded(inner: number): number {
    return Math.min(this.length() + this.plan.after, Math.max(0 - this.plan.before, inner));
  }

  private shown(inner: number): number {
    return this.songTime && this.plan.kept.length ? toSong(this.plan.kept, inner) : inner;
  }

  private inner(): number {
    const { playing, speed } = useClock.getState();
    if (!playing) return this.still;
    const now = speed === 1 ? this.audioNow() : performance.now() / 1000;
    return this.bounded(this.startedFrom + (now - this.startedAt) * speed);
  }

  private audioNow(): number {
    const context = this.audio();
    return Math.max(this.startedAt, context.currentTime - (context.outputLatency || 0));
  }

  /** Start playing from where the playhead is, after so many clicks of a beat each. */
  play(speed = 1, countIn: { clicks: number; beat: number } | null = null): void {
    let from = this.inner();
    if (speed > 0 && from >= this.length() + this.plan.after - 0.01) from = 0 - this.plan.before;
    this.silence();
    this.startedFrom = from;
    if (speed === 1) {
      const context = this.audio();
      void context.resume();
      const lead = countIn ? countIn.clicks * countIn.beat : 0;
      this.startedAt = context.currentTime + 0.03 + lead;
      this.sound(context, from);
      if (countIn)
        for (let i = 0; i < countIn.clicks; i++)
          this.clickAt(context, this.startedAt - lead + i * countIn.beat, i === 0);
    } else {
      this.startedAt = performance.now() / 1000;
    }
    useClock.setState({ playing: true, speed });
  }

  private sound(context: AudioContext, from: number): void {
    this.volume ??= context.createGain();
    this.volume.gain.value = useClock.getState().gain;
    this.volume.connect(context.destination);
    const other = this.companion;
    if (this.song) this.playKept(context, this.song, from, other);
    const heard = this.tried ?? (useClock.getState().click ? this.clicks : []);
    for (const { at, down, kind } of [...heard, ...this.hits])
      if (at >= from - 1e-3 && at < from + 900) this.clickAt(context, this.startedAt + at - from, down, kind);
    if (other) {
      const late = Math.max(0, other.songStart - from);
      const take = other.takeStart + (Math.max(from, other.songStart) - other.songStart) / other.rate;
      if (take < other.buffer.duration) {
        this.start(
          context,
          other.buffer,
          this.startedAt + late,
          take,
          1 / other.rate,
          other.how === "left and right" ? 1 : 0,
          other,
          true,
        );
      }
    }
  }

  /** Schedule all that is kept from a working time on, each join crossfaded, with the fades of head and tail. */
  private playKept(context: AudioContext, song: AudioBuffer, from: number, other: Companion | null): void {
    const master = context.createGain();
    const { fadeIn, fadeOut, shape } = this.plan;
    const length = this.length();
    for (const [begin, end, up] of [
      [0, fadeIn, true],
      [length - fadeOut, length, false],
    ] as const) {
      if (end - begin < 0.01 || from >= end) continue;
      const first = Math.max(begin, from);
      const values = curve(shape, (first - begin) / (end - begin), up);
      master.gain.setValueCurveAtTime(values, this.startedAt + first - from, end - first);
    }
    master.connect(this.volume as GainNode);
    for (const piece of this.pieces(song)) {
      const skip = Math.max(0, from - piece.at);
      if (skip >= piece.seconds || piece.offset + skip >= song.duration) continue;
      this.start(
        context,
        song,
        this.startedAt + Math.max(0, piece.at - from),
        piece.offset + skip,
        1,
        other ? (other.how === "left and right" ? -1 : 0) : null,
        other,
        false,
        { seconds: piece.seconds - skip, fadeIn: skip ? 0 : piece.fadeIn, fadeOut: piece.fadeOut, into: master },
      );
    }
  }

  private clickAt(context: AudioContext, when: number, down: boolean, kind?: HitKind): void {
    const source = context.createBufferSource();
    source.buffer = kind ? strokeSound(context, kind) : clickSound(context, down);
    source.connect(this.volume as GainNode);
    source.start(Math.max(context.currentTime, when));
    this.sources.push(source);
  }

  /** Play a click now and then, without the song; gives the audio times of the clicks. */
  rehearse(count: number, beat: number): { times: number[]; now: () => number } {
    this.pause();
    const context = this.audio();
    void context.resume();
    this.volume ??= context.createGain();
    this.volume.gain.value = useClock.getState().gain;
    this.volume.connect(context.destination);
    const first = context.currentTime + 0.5;
    const times = Array.from({ length: count }, (_, i) => first + i * beat);
    times.forEach((at, i) => {
      this.clickAt(context, at, i === 0);
    });
    return { times, now: () => context.currentTime - (context.outputLatency || 0) };
  }

  private start(
    context: AudioContext,
    buffer: AudioBuffer,
    when: number,
    offset: number,
    rate: number,
    pan: number | null,
    other: Companion | null,
    isTake: boolean,
    piece: { seconds: number; fadeIn: number; fadeOut: number; into: GainNode } | null = null,
  ): void {
    const source = context.createBufferSource();
    source.buffer = buffer;
    source.playbackRate.value = rate;
    let node: AudioNode = source;
    if (pan !== null) {
      const mono = context.createGain();
      mono.channelCount = 1;
      mono.channelCountMode = "explicit";
      const panner = new StereoPannerNode(context, { pan });
      node.connect(mono).connect(panner);
      node = panner;
      if (other?.how === "in turn") this.takeTurns(mono.gain, other.beats, isTake);
    }
    if (piece && (piece.fadeIn || piece.fadeOut)) {
      const edge = context.createGain();
      if (piece.fadeIn) edge.gain.setValueCurveAtTime(curve("power", 0, true), when, piece.fadeIn);
      if (piece.fadeOut && piece.seconds > piece.fadeIn + piece.fadeOut)
        edge.gain.setValueCurveAtTime(curve("power", 0, false), when + piece.seconds - piece.fadeOut, piece.fadeOut);
      node = node.connect(edge);
    }
    node.connect(piece?.into ?? (this.volume as GainNode));
    if (piece) source.start(when, offset, piece.seconds);
    else source.start(when, offset);
    this.sources.push(source);
  }

  /** Let song and take sound in turn, a beat each. */
  private takeTurns(gain: AudioParam, beats: readonly number[], isTake: boolean): void {
    beats.forEach((beat, i) => {
      const at = this.startedAt + beat - this.startedFrom;
      if (at > this.startedAt) gain.setValueAtTime((i % 2 === 1) === isTake ? 1 : 0, at);
    });
    const now = beats.filter((b) => b <= this.startedFrom).length - 1;
    gain.setValueAtTime((now % 2 === 1) === isTake ? 1 : 0, this.startedAt);
  }

  private silence(): void {
    for (const source of this.sources) source.stop();
    this.sources = [];
  }

  /** Stop where the playhead is. */
  pause(): void {
    this.still = this.inner();
    this.silence();
    useClock.setState({ playing: false, speed: 1 });
    this.tell();
  }

  toggle(): void {
    if (useClock.getState().playing) this.pause();
    else this.play();
  }

  /** Jump to a song time; goes on playing if it was. */
  seek(seconds: number): void {
    const { playing, speed } = useClock.getState();
    const inner = this.songTime && this.plan.kept.length ? toWorking(this.plan.kept, seconds) : seconds;
    this.still = this.bounded(inner);
    if (playing) {
      useClock.setState({ playing: false });
      this.play(speed);
    }
    this.tell();
  }

  /** Hear a take beside the song; null to hear the song alone. */
  accompany(companion: Companion | null): void {
    this.companion = companion;
    if (useClock.getState().playing) {
      this.again();
    }
  }

  setGain(gain: number): void {
    useClock.setState({ gain });
    if (this.volume) this.volume.gain.value = gain;
  }

  private tick(): void {
    const { playing, speed, loop } = useClock.getState();
    if (!playing) return;
    const at = this.position();
    const inner = this.inner();
    if (loop && speed > 0 && at >= loop[1]) {
      this.seek(loop[0]);
      return;
    }
    if ((speed > 0 && inner >= this.length() + this.plan.after) || (speed < 0 && inner <= -this.plan.before)) {
      this.pause();
      return;
    }
    this.tell();
  }

  private tell(): void {
    const at = this.position();
    for (const listener of this.listeners) listener(at);
  }
}

export const clock = new Clock();
