import { begun, ended, noCommands } from './commands';
import type { Commands } from './commands';

const none: Commands<'save' | 'remove'> = noCommands;
const problem = { title: 'Not now', detail: 'It runs.', remedy: 'Wait.', faults: [] };

describe('the commands of a place', () => {
  it('run beside each other, and end one by one', () => {
    const both = begun(begun(begun(none, 'save'), 'remove'), 'save');
    expect(both.running).toEqual(['save', 'remove', 'save']);
    expect(ended(both, 'save')).toEqual({ running: ['remove', 'save'], problem: null, done: 1 });
  });

  it('say what the last one met, until another begins', () => {
    const refused = ended(begun(none, 'save'), 'save', problem);
    expect(refused).toEqual({ running: [], problem, done: 0 });
    expect(begun(refused, 'remove').problem).toBeNull();
  });
});
