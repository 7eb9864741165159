import type { Out } from './command.js';

const batchLetters = 1 << 16;

/** Many lines by one write: a write costs more than a line. */
export class Batched {
  private text = '';

  constructor(private readonly out: Out) {}

  line(text: string): void {
    this.text += `${text}\n`;
    if (this.text.length >= batchLetters) this.flush();
  }

  flush(): void {
    if (this.text !== '') this.out.write(this.text);
    this.text = '';
  }
}
