import { create } from "zustand";

/** How a take is heard beside the song on the bench. */
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
}

/** What the interface shows of the clock; the running position is asked from {@link clock} itself. */
export const useClock = create<ClockState>(() => ({
  playing: false,
  speed: 1,
  duration: 0,
  ready: false,
  loop: null,
  gain: 0.8,
}));

type Listener = (position: number) => void;

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

  /** Load a song to play; the same address is loaded once. */
  async load(url: string, duration: number): Promise<void> {
    useClock.setState({ duration });
    if (this.loaded === url) return;
    this.pause();
    this.loaded = url;
    this.song = null;
    this.still = 0;
    useClock.setState({ ready: false, loop: null });
    const song = await this.decode(url);
    if (this.loaded !== url) return;
    this.song = song;
    useClock.setState({ ready: true, duration: song.duration });
  }

  /** Decode a sound file for playing. */
  async decode(url: string): Promise<AudioBuffer> {
    const answer = await fetch(url);
    if (!answer.ok) throw new Error(`The sound could not be fetched (${answer.status}).`);
    return this.audio().decodeAudioData(await answer.arrayBuffer());
  }

  /** Song time in seconds. */
  position(): number {
    const { playing, speed, duration } = useClock.getState();
    if (!playing) return this.still;
    const now = speed === 1 ? this.audioNow() : performance.now() / 1000;
    return Math.min(duration, Math.max(0, this.startedFrom + (now - this.startedAt) * speed));
  }

  private audioNow(): number {
    const context = this.audio();
    return Math.max(this.startedAt, context.currentTime - (context.outputLatency || 0));
  }

  /** Start playing from where the playhead is. */
  play(speed = 1): void {
    const { duration } = useClock.getState();
    let from = this.position();
    if (speed > 0 && from >= duration - 0.01) from = 0;
    this.silence();
    this.startedFrom = from;
    if (speed === 1) {
      const context = this.audio();
      void context.resume();
      this.startedAt = context.currentTime + 0.03;
      this.sound(context, from);
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
    if (this.song && from < this.song.duration) {
      this.start(
        context,
        this.song,
        this.startedAt,
        from,
        1,
        other ? (other.how === "left and right" ? -1 : 0) : null,
        other,
        false,
      );
    }
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

  private start(
    context: AudioContext,
    buffer: AudioBuffer,
    when: number,
    offset: number,
    rate: number,
    pan: number | null,
    other: Companion | null,
    isTake: boolean,
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
    node.connect(this.volume as GainNode);
    source.start(when, offset);
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
    this.still = this.position();
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
    const { playing, speed, duration } = useClock.getState();
    this.still = Math.min(Math.max(0, seconds), duration);
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
      const at = this.position();
      this.silence();
      this.still = at;
      useClock.setState({ playing: false });
      this.play();
    }
  }

  setGain(gain: number): void {
    useClock.setState({ gain });
    if (this.volume) this.volume.gain.value = gain;
  }

  private tick(): void {
    const { playing, speed, duration, loop } = useClock.getState();
    if (!playing) return;
    const at = this.position();
    if (loop && speed > 0 && at >= loop[1]) {
      this.seek(loop[0]);
      return;
    }
    if ((speed > 0 && at >= duration) || (speed < 0 && at <= 0)) {
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
