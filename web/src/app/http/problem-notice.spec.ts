import { Shown } from '../../testing/show';
import { ProblemNotice } from './problem-notice';

const problem = (faults: readonly { place: string; says: string }[], detail = 'hosts.0: This is no host name.') => ({
  title: 'Not valid',
  detail,
  remedy: 'Correct it.',
  faults,
});
const fault = (place: string, says = 'This is no host name.') => ({ place, says });

describe('a problem', () => {
  it('is said once, with what to do', () => {
    const shown = Shown.of(ProblemNotice, { problem: problem([fault('hosts.0')]) });
    expect(shown.text).toBe('Not valid. hosts.0: This is no host name. Correct it.');
  });

  it('at several places names them all', () => {
    const shown = Shown.of(ProblemNotice, { problem: problem([fault('hosts.0'), fault('hosts.2')]) });
    expect(shown.all('li').map(({ textContent }) => textContent?.trim())).toEqual([
      'hosts.0: This is no host name.',
      'hosts.2: This is no host name.',
    ]);
  });

  it('names the place where the sentence does not', () => {
    const shown = Shown.of(ProblemNotice, {
      problem: problem([fault('passphrase', 'Type it again.')], 'It does not open.'),
    });
    expect(shown.all('li')).toHaveLength(1);
  });

  it('that is none shows nothing', () => {
    expect(Shown.of(ProblemNotice, { problem: null }).all('[role=alert]')).toEqual([]);
  });
});
