import { stdin, stdout } from 'node:process';
import { createInterface } from 'node:readline';

/** Asks in the terminal without showing what is typed. */
export function askHidden(question, without) {
  return new Promise((resolve, reject) => {
    const lines = createInterface({ input: stdin, output: stdout, terminal: stdin.isTTY });
    stdout.write(question);
    lines._writeToOutput = () => undefined;
    const nothing = () => reject(new Error(without));
    lines.once('close', nothing);
    lines.once('SIGINT', () => process.kill(process.pid, 'SIGINT'));
    lines.once('line', (line) => {
      stdout.write('\n');
      lines.off('close', nothing);
      lines.close();
      resolve(line);
    });
  });
}

/** Asks a question whose answer is yes or no; where nobody can be asked, the answer is no. */
export async function askYes(question) {
  if (!stdin.isTTY) return false;
  const lines = createInterface({ input: stdin, output: stdout });
  const answer = await new Promise((resolve) => lines.question(`${question} [y/N] `, resolve));
  lines.close();
  return /^y(es)?$/i.test(answer.trim());
}
