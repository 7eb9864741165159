/** The words of a line as a shell would read them; quotes group, a backslash takes the next letter as it is. null: a quote isn’t closed. */
export function wordsOf(line: string): readonly string[] | null {
  const words: string[] = [];
  let word: string | null = null;
  let quote = '';
  for (let at = 0; at < line.length; at += 1) {
    const letter = line.charAt(at);
    if (letter === '\\' && at + 1 < line.length && quote !== "'") {
      at += 1;
      word = (word ?? '') + line.charAt(at);
    } else if (quote !== '') {
      if (letter === quote) quote = '';
      else word += letter;
    } else if (letter === '"' || letter === "'") {
      quote = letter;
      word ??= '';
    } else if (/\s/.test(letter)) {
      if (word !== null) words.push(word);
      word = null;
    } else word = (word ?? '') + letter;
  }
  if (quote !== '') return null;
  return word === null ? words : [...words, word];
}

/** Goes through the words of a rule. */
export class Words {
  private at = 0;
  constructor(private readonly words: readonly string[]) {}

  get isAtEnd(): boolean {
    return this.at >= this.words.length;
  }
  next(): string {
    const word = this.words[this.at] ?? '';
    this.at += 1;
    return word;
  }
  peek(ahead = 0): string | null {
    return this.words[this.at + ahead] ?? null;
  }
}
