import type { AddressInfo } from 'node:net';
import { createServer } from 'node:net';
import { portGiven, tellStatistics } from './tell-statistics';

describe('what a process tells of itself', () => {
  it('is JSON, as it is now, at a port of this machine', async () => {
    const free = createServer();
    await new Promise<void>((done) => free.listen(0, '127.0.0.1', done));
    const { port } = free.address() as AddressInfo;
    const faults: string[] = [];
    tellStatistics(
      port,
      () => null,
      (says) => faults.push(says),
    );
    for (let turn = 0; turn < 200 && faults.length === 0; turn += 1) await new Promise((done) => setTimeout(done, 5));
    expect(faults).toEqual([`Port ${port} is taken: its statistics are told nowhere.`]);
    await new Promise((done) => free.close(done));
    let count = 0;
    const telling = tellStatistics(
      port,
      () => ({ count: (count += 1) }),
      (says) => faults.push(says),
    );
    const ask = async (): Promise<unknown> => (await fetch(`http://127.0.0.1:${port}`)).json();
    expect([await ask(), await ask()]).toEqual([{ count: 1 }, { count: 2 }]);
    telling.closeAllConnections();
    telling.close();
    expect(faults).toHaveLength(1);
  });

  it.each(['', '0', '65536', '1.5', 'eighty', '-1'])('is asked for at a port, and “%s” is none', (text) => {
    expect(() => portGiven(text)).toThrow('--statistics wants a port.');
  });

  it('is told nowhere where nobody asked', () => {
    expect([portGiven(undefined), portGiven('9100')]).toEqual([null, 9100]);
  });
});
