import { needsTls } from './where-tls.js';

describe('TLS', () => {
  it.each(['0.0.0.0', '::', '10.20.0.5', '192.168.1.9', 'hinge.works.example', 'fd00::1', '::ffff:10.1.1.1'])(
    'is needed at %s',
    (host) => expect(needsTls(host, 'auto')).toBe(true),
  );

  it.each(['127.0.0.1', '127.41.0.1', '::1', 'localhost', '::ffff:127.0.0.1'])('is not needed at %s', (host) => {
    expect(needsTls(host, 'auto')).toBe(false);
    expect(needsTls(host, 'yes')).toBe(true);
  });
});
