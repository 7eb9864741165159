import { TestBed } from '@angular/core/testing';
import { Keys } from './keys';

const press = (keys: Keys, key: string, target: Element = document.body): KeyboardEvent => {
  const event = new KeyboardEvent('keydown', { key, bubbles: true, cancelable: true });
  Object.defineProperty(event, 'target', { value: target });
  keys.hear(event);
  return event;
};

describe('the keys', () => {
  it('do what they say, alone or after one another', () => {
    const keys = TestBed.inject(Keys);
    const done: string[] = [];
    keys.add({
      c: { does: 'check', run: () => done.push('check') },
      'g l': { does: 'go to Links', run: () => done.push('links') },
    });
    press(keys, 'c');
    press(keys, 'g');
    press(keys, 'l');
    press(keys, 'l');
    expect(done).toEqual(['check', 'links']);
    expect(keys.help()).toContainEqual({ keys: 'g l', does: 'go to Links' });
  });

  it('belong to whoever came last, and to the one before when that is gone', () => {
    const keys = TestBed.inject(Keys);
    const done: string[] = [];
    const entry = (name: string) => ({ '/': { does: name, run: () => done.push(name) } });
    const told = () => keys.help().filter(({ keys: key }) => key === '/');
    keys.add(entry('everywhere'));
    const leave = keys.add(entry('this list'));
    const leaveNext = keys.add(entry('next list'));
    press(keys, '/');
    // A page comes before the one that it follows has gone.
    leave();
    press(keys, '/');
    leaveNext();
    press(keys, '/');
    expect(done).toEqual(['next list', 'next list', 'everywhere']);
    expect(told()).toEqual([{ keys: '/', does: 'everywhere' }]);
  });

  it('are kept for a field that was asked for, and do nothing meanwhile', () => {
    const keys = TestBed.inject(Keys);
    const done: string[] = [];
    keys.add({ c: { does: 'check', run: () => done.push('check') } });
    keys.awaitField();
    for (const key of ['c', 'u', 'Shift', 'l']) expect(press(keys, key).defaultPrevented).toBe(true);
    expect([keys.typedEarly(), done]).toEqual(['cul', []]);
    press(keys, 'c');
    expect([keys.typedEarly(), done]).toEqual(['', ['check']]);
  });

  it('do nothing to a page that a dialog covers', () => {
    const keys = TestBed.inject(Keys);
    const done: string[] = [];
    keys.add({ c: { does: 'check', run: () => done.push('check') } });
    const mask = document.body.appendChild(document.createElement('div'));
    mask.className = 'p-dialog-mask';
    press(keys, 'c');
    expect(done).toEqual([]);
    mask.remove();
    press(keys, 'c');
    expect(done).toEqual(['check']);
  });

  it('stay out of the way of whoever types', () => {
    const keys = TestBed.inject(Keys);
    const done: string[] = [];
    keys.add({ c: { does: 'check', run: () => done.push('check') } });
    const event = press(keys, 'c', document.body.appendChild(document.createElement('input')));
    expect([done, event.defaultPrevented]).toEqual([[], false]);
  });
});
