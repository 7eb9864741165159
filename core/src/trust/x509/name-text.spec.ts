import { readNameText, valueIn } from './name-text.js';

describe('a distinguished name in writing', () => {
  it('is read attribute by attribute, joined ones too', () => {
    expect(readNameText('CN=Furnace server+serialNumber=7, O=Works')).toEqual([
      { type: 'CN', value: 'Furnace server' },
      { type: 'serialNumber', value: '7' },
      { type: 'O', value: 'Works' },
    ]);
  });

  it('keeps escaped dividers, backslashes and quotes in their values', () => {
    expect(valueIn('CN=Works\\, Lehr \\+ \\"B\\" \\\\ 1, O=Works', 'CN')).toBe('Works, Lehr + "B" \\ 1');
  });

  it('puts octets that stand as hexadecimal together again', () => {
    expect(valueIn('CN=K\\C3\\BChlofen\\0A2, O=W', 'CN')).toBe('Kühlofen\n2');
  });

  it('finds no type inside another one’s value', () => {
    expect(valueIn('OU=see CN\\=x, O=Works', 'CN')).toBeNull();
    expect(valueIn('O=CN=Works', 'CN')).toBeNull();
  });

  it('gives nothing for what is no name', () => {
    expect(readNameText('Furnace server')).toEqual([]);
    expect(readNameText('')).toEqual([]);
    expect(valueIn('CN=', 'CN')).toBe('');
    expect(valueIn('CN=ends in \\', 'CN')).toBe('ends in ');
  });
});
