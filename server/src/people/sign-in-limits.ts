import { ProblemError, tooMany } from '../http/problems.js';
import { Turns } from '../processes/turns.js';

const windowMs = 10 * 60_000;
/** Wrong passwords for one name from one address. */
const ofNameThere = 5;
/** Wrong passwords for one name from anywhere, and from one address for any name. */
const ofName = 20;
const ofAddress = 30;
/** So many names, addresses and pairs of both are counted; the oldest are let go first. */
const mostCounted = 50_000;

/** Answers to what was wrong; that a code is needed besides is none of them. */
const wrongs: readonly string[] = ['sign-in-refused', 'code-refused', 'wrong-password'];

interface Counted {
  wrong: number;
  readonly until: number;
}

/**
 * Slows guessing down, and locks nobody else out: five wrong passwords close one name for one address, for ten minutes from
 * the first. Many for one name from anywhere, or for many names from one address, close it for those alone who were
 * wrong under that name from there: whoever types the right password at once is let in, however many guess beside them.
 */
export class SignInLimits {
  private readonly counts = new Map<string, Counted>();
  /** One after the other for each name and address: guesses sent at once are counted like those sent in turn. */
  private readonly turns = new Turns();

  constructor(private readonly now: () => number = Date.now) {}

  /** @throws a problem that says after how many seconds it may be tried again */
  attempt<Result>(name: string, address: string, signIn: () => Promise<Result>): Promise<Result> {
    const pair = `pair ${address} ${name}`;
    return this.turns.take(pair, async () => {
      const [there, ofAnybody, ofPlace] = [pair, `name ${name}`, `address ${address}`].map((key) => this.count(key));
      const isClosed = (there?.wrong ?? 0) >= ofNameThere;
      const isNoisy = (ofAnybody?.wrong ?? 0) >= ofName || (ofPlace?.wrong ?? 0) >= ofAddress;
      if (there && (isClosed || isNoisy)) throw tooMany(Math.max(1, Math.ceil((there.until - this.now()) / 1000)));
      try {
        const result = await signIn();
        this.counts.delete(pair);
        return result;
      } catch (error) {
        if (error instanceof ProblemError && wrongs.includes(error.problem.code))
          for (const key of [pair, `name ${name}`, `address ${address}`]) this.add(key);
        throw error;
      }
    });
  }

  private count(key: string): Counted | null {
    const counted = this.counts.get(key);
    if (counted && counted.until > this.now()) return counted;
    this.counts.delete(key);
    return null;
  }

  private add(key: string): void {
    const counted = this.count(key) ?? { wrong: 0, until: this.now() + windowMs };
    counted.wrong += 1;
    this.counts.set(key, counted);
    const [oldest] = this.counts.keys();
    if (this.counts.size > mostCounted && oldest !== undefined) this.counts.delete(oldest);
  }
}
