import { serviceFault, serviceMessageOf } from './service-types';

describe('a message of a service', () => {
  it('is told by its numeric id, as a request or its answer', () => {
    const told = (typeId: number) => serviceMessageOf(typeId);
    expect([told(631), told(634)]).toEqual([
      { name: 'Read', isRequest: true },
      { name: 'Read', isRequest: false },
    ]);
    expect([told(12208), told(12209), told(12212)]).toEqual([
      { name: 'FindServersOnNetwork', isRequest: true },
      { name: 'FindServersOnNetwork', isRequest: false },
      { name: 'RegisterServer2', isRequest: false },
    ]);
    expect(told(serviceFault)).toEqual({ name: 'ServiceFault', isRequest: false });
  });

  it('is none that is known by any other id, however large it is', () => {
    for (const typeId of [0, 1, 632, 633, 12207, 12213, 65_535, 0xffffffff, -1, 631.5, Number.NaN])
      expect(serviceMessageOf(typeId)).toBeNull();
  });

  it('is a request or an answer for every service, and never both', () => {
    const known = Array.from({ length: 13_000 }, (_, typeId) => serviceMessageOf(typeId)).filter((one) => one !== null);
    const requests = known.filter(({ isRequest }) => isRequest).map(({ name }) => name);
    const answers = known
      .filter(({ isRequest, name }) => !isRequest && name !== 'ServiceFault')
      .map(({ name }) => name);
    expect(new Set(requests).size).toBe(requests.length);
    expect(answers).toEqual(requests);
    expect(requests).toEqual(expect.arrayContaining(['CreateSession', 'ActivateSession', 'Publish', 'Call', 'Browse']));
  });
});
