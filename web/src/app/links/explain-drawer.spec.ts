import type { Finding, StepVerdict } from '@loyal-hinge/core';
import { Shown } from '../../testing/show';
import { ExplainDrawer } from './explain-drawer';

const evidence = { factId: 'f1', says: 'Port 4840 refused.', source: 'tried', at: '2026-03-01T12:00:00.000Z' } as const;
const finding: Finding = {
  causeId: 'port-refused',
  step: 'reach',
  title: 'The port is refused',
  meaning: 'Nothing listens there.',
  clause: 'RFC 9293 §3.5',
  severity: 'fails',
  grave: false,
  evidence: [evidence],
  remedies: [
    {
      title: 'Use port 4841',
      target: 'the link',
      before: '4840',
      after: '4841',
      change: { kind: 'set-endpoint-url', linkId: 'l', before: 'a', after: 'b' },
      restart: false,
      undo: 'Set it back.',
    },
    {
      title: 'Start the service',
      target: 'the machine',
      before: '',
      after: '',
      change: { kind: 'by-hand' },
      restart: false,
      undo: '',
    },
  ],
  folded: [],
};
const verdict = (differs: Partial<StepVerdict> = {}): StepVerdict => ({
  step: 'reach',
  verdict: 'fails',
  summary: 'Refused.',
  source: 'tried',
  findings: [finding],
  evidence: [evidence],
  ...differs,
});

describe('the explain drawer', () => {
  it('tells meaning, evidence with its source, and what to do', () => {
    const shown = Shown.of(ExplainDrawer, { kind: 'ua', verdict: verdict() });
    expect(shown.text).toMatch(/Nothing listens there\..*Use port 4841.*How we know.*Port 4840 refused\. tried/);
  });

  it('tells each fact once', () => {
    const shown = Shown.of(ExplainDrawer, { kind: 'ua', verdict: verdict() });
    expect(shown.all('.evidence li')).toHaveLength(1);
  });

  it('offers to carry out only what can be carried out from here', () => {
    const shown = Shown.of(ExplainDrawer, { kind: 'ua', verdict: verdict() });
    const asked = shown.heard(shown.part.mend);
    expect(shown.all('.act')).toHaveLength(1);
    shown.press(/Do this/);
    expect(asked.map(({ title }) => title)).toEqual(['Use port 4841']);
  });

  it('says why nobody knows where no fact speaks', () => {
    const shown = Shown.of(ExplainDrawer, {
      kind: 'ua',
      verdict: verdict({ verdict: 'unknown', findings: [], evidence: [] }),
    });
    expect(shown.text).toContain('the check stopped at an earlier step');
  });
});
