import { HttpErrorResponse } from '@angular/common/http';
import { of, throwError, toArray, firstValueFrom } from 'rxjs';
import { answered } from './answered';
import type { ShownProblem } from './problem';

const done = (word: string) => ({ type: `done ${word}` });
const failed = ({ problem }: { problem: ShownProblem }) => ({ type: 'failed', problem });

describe('what is answered', () => {
  it('becomes one action', async () => {
    await expect(firstValueFrom(of('well').pipe(answered(done, failed), toArray()))).resolves.toEqual([
      { type: 'done well' },
    ]);
  });

  it('becomes several actions, in their order', async () => {
    const both = (word: string) => [done(word), done('again')];
    await expect(firstValueFrom(of('well').pipe(answered(both, failed), toArray()))).resolves.toEqual([
      { type: 'done well' },
      { type: 'done again' },
    ]);
  });

  it('shows the problem where the call is refused, and goes on listening', async () => {
    const refusal = new HttpErrorResponse({
      status: 409,
      error: { title: 'Not now', detail: 'It runs already.', code: 'running', remedy: 'Wait for it.' },
    });
    const [action] = await firstValueFrom(throwError(() => refusal).pipe(answered(done, failed), toArray()));
    expect(action).toMatchObject({ type: 'failed' });
    expect(JSON.stringify(action)).toContain('It runs already.');
  });
});
