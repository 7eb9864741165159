import { FormControl } from '@angular/forms';
import { followName, idOf, neededItem, neededLine } from './typed';

describe('what is typed into a form of the plant', () => {
  it('is a needed item with or without what it is for', () => {
    expect(neededItem('Furnace/Crown temperature: read, watch')).toEqual({
      path: 'Furnace/Crown temperature',
      uses: ['read', 'watch'],
    });
    expect(neededItem('Furnace/Crown')).toEqual({ path: 'Furnace/Crown', uses: ['read', 'watch'] });
    expect(neededItem('ns=2;s=a:b')).toEqual({ path: 'ns=2;s=a:b', uses: ['read', 'watch'] });
  });

  it('comes back as it was', () => {
    const item = { path: 'ns=2;s=Crown:raw', uses: ['read'] } as const;
    expect(neededItem(neededLine(item))).toEqual(item);
  });

  it('makes an id of a name, until one is typed', () => {
    expect([idOf('Tin bath control'), idOf('  Öfen #3 ')]).toEqual(['tin-bath-control', 'o-fen-3']);
    const [name, id] = [new FormControl('', { nonNullable: true }), new FormControl('', { nonNullable: true })];
    followName(name, id);
    name.setValue('Cold End');
    expect(id.value).toBe('cold-end');
    id.setValue('cold');
    id.markAsDirty();
    name.setValue('Cold End 2');
    expect(id.value).toBe('cold');
  });
});
