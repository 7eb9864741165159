import { cause } from '../../cause.js';
import { byHand } from '../../../orders/change.js';

/** The server acknowledges buffers below the standard's least. */
export const buffersTooSmall = cause({
  id: 'buffers-too-small',
  steps: ['hello'],
  clause: 'Part 6 §7.1.2.4',
  title: 'The buffers are too small',
  severity: 'weak',
  test({ facts, rules }) {
    const hello = facts.latest('hello');
    if (hello?.outcome !== 'acknowledged') return null;
    const least = Math.min(hello.limits.receiveBufferSize, hello.limits.sendBufferSize);
    return least < rules.leastBufferBytes ? { because: [hello], least } : null;
  },
  meaning: ({ least }, { rules }) =>
    `The server accepts only ${least} bytes at a time; the standard’s least is ${rules.leastBufferBytes}. Large requests and long certificate chains will fail.`,
  remedies: ({ least }, { subject: { server }, rules }) => [
    byHand({
      title: 'Raise the buffer sizes',
      target: server.name,
      before: `${least} bytes`,
      after: `${rules.leastBufferBytes} bytes or more`,
      restart: true,
    }),
  ],
});
