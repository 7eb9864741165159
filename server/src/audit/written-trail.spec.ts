import { trailWritings } from './written-trail.js';

const row = {
  sequence: 7,
  at: '2026-11-20T02:10:00.000Z',
  actor: 'ada=1',
  action: 'person added',
  subject: 'ben',
  details: { role: 'viewer' },
  previousHash: '00',
  hash: 'ff',
};

describe('a row of the trail', () => {
  it('is written as a row of a table', () => {
    expect(trailWritings.csv.line(row)).toBe(
      '7,2026-11-20T02:10:00.000Z,ada=1,person added,ben,"{""role"":""viewer""}",ff',
    );
  });

  it('is written as a line of JSON, from which its hash can be reckoned again', () => {
    expect(JSON.parse(trailWritings['json-lines'].line(row))).toEqual(row);
  });

  it('is written as an event for systems that watch, graver where somebody gets rights', () => {
    expect(trailWritings.cef.line(row)).toBe(
      'CEF:0|Loyal Hinge|Loyal Hinge|0.1|person added|Person added|5|rt=1795140600000 externalId=7 suser=ada\\=1 act=person added cs1Label=about cs1=ben cs2Label=hash cs2=ff msg={"role":"viewer"}',
    );
    expect(trailWritings.cef.line({ ...row, action: 'signed in' })).toContain('|Signed in|3|');
  });
});
