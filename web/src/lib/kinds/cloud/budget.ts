/** More points than this are not drawn while it is turned, and fewer than this tell nothing. */
const MOST = 1_200_000;
const LEAST = 20_000;
/** ms from asking for a picture to drawing it: longer, and the one before was not done in time; shorter, and there is room. */
const LATE = 40;
const EARLY = 20;

/** How many points are drawn while a cloud is turned: as many as the machine draws in time, found out while it is turned. */
export class Budget {
  points = MOST;

  /** A picture was asked for so long before it could be drawn. */
  waited(ms: number): void {
    if (ms > LATE) this.points = Math.max(LEAST, Math.round(this.points * Math.max(0.4, LATE / ms)));
    else if (ms < EARLY) this.points = Math.min(MOST, Math.round(this.points * 1.1));
  }
  /** Whether so many are more than are drawn while it is turned. */
  isOver(points: number): boolean {
    return points > this.points;
  }
}
