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

  it('stay out of the way of whoever types', () => {
    const keys = TestBed.inject(Keys);
    const done: string[] = [];
    keys.add({ c: { does: 'check', run: () => done.push('check') } });
    const event = press(keys, 'c', document.body.appendChild(document.createElement('input')));
    expect([done, event.defaultPrevented]).toEqual([[], false]);
  });
});
