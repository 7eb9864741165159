/** Puts an item at the end of the list of a key. */
export function addTo<Item>(lists: Map<string, Item[]>, key: string, item: Item): void {
  const list = lists.get(key);
  if (list) list.push(item);
  else lists.set(key, [item]);
}
