/**
 * Which pictures of a wall are drawn in a frame while the programme plays: all, or where the machine cannot keep up, every
 * second to fourth frame of each in turn, so that the programme loses none.
 */

/** Frames that are watched, how many of them may be lost, and frames without a loss until more is tried again. */
const WATCHED = 24;
const MAY_LOSE = 1;
const CALM = 120;
/** Each is drawn at least in every fourth frame. */
const RAREST = 4;
/** A jump of more frames is a jump of the playhead. */
const JUMP = 24;

export class Pace {
  private readonly members: object[] = [];
  private last = -1;
  /** Frames that were lost, by where. */
  private lost: number[] = [];
  private since = 0;
  /** Frames from one picture of each to its next. */
  every = 1;

  join(who: object): void {
    this.members.push(who);
  }

  leave(who: object): void {
    const at = this.members.indexOf(who);
    if (at >= 0) this.members.splice(at, 1);
  }

  /** True where a picture is drawn in a frame. */
  draws(who: object, frame: number): boolean {
    return (frame + this.members.indexOf(who)) % this.every === 0;
  }

  /** Be told of a frame that the programme drew as it plays. */
  drew(frame: number): void {
    const missed = frame - this.last - 1;
    const went = this.last >= 0 && missed >= 0 && missed < JUMP;
    this.last = frame;
    if (!went) {
      this.lost = [];
      this.since = frame;
      return;
    }
    for (let n = 0; n < missed; n++) this.lost.push(frame);
    this.lost = this.lost.filter((at) => at > frame - WATCHED);
    if (this.lost.length > MAY_LOSE && this.every < RAREST) this.change(this.every + 1, frame);
    else if (this.lost.length) this.since = frame;
    else if (this.every > 1 && frame - this.since > CALM) this.change(this.every - 1, frame);
  }

  private change(every: number, frame: number): void {
    this.every = every;
    this.lost = [];
    this.since = frame;
  }
}

export const pace = new Pace();
