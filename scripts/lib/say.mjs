/** One line to the person who started it. */
export const say = (text) => console.log(text);

/** What a person can do something about: it is shown as it is, without a stack. */
export class GiveUp extends Error {}

/** Ends with a sentence that says what to do. */
export function giveUp(text) {
  throw new GiveUp(text);
}

/** Any error as a sentence: what happened, and what to do where that is known. */
export function sentenceOf(error) {
  if (error instanceof GiveUp) return error.message;
  const said = `${error.message ?? error}\n${error.said ?? ''}`;
  for (const [sign, says] of usualTroubles) if (sign.test(said)) return says(error.path ?? placeIn(said));
  const [first] = String(error.message ?? error).split('\n');
  const last = said.trim().split('\n').at(-1)?.trim();
  return last && last !== first ? `${first}: ${last}` : first;
}

const usualTroubles = [
  [
    /ENOSPC|No space left on device/i,
    (place) =>
      `The disk${place ? ` that holds ${place}` : ''} is full. Free some space on it, then start again. Nothing was lost.`,
  ],
  [
    /EROFS|Read-only file system/i,
    (place) =>
      `${place ?? 'The data folder'} can’t be written: its file system is read-only. Make it writable, or choose another folder with “--data FOLDER”.`,
  ],
  [
    /EACCES|EPERM|Permission denied|Operation not permitted|has wrong ownership/i,
    (place) =>
      `${place ?? 'The data folder'} belongs to somebody else and can’t be written. Start as the user that it belongs to, or choose another folder with “--data FOLDER”.`,
  ],
  [
    /ENOTDIR|EEXIST: file already exists, mkdir/,
    (place) =>
      `${place ?? 'The data folder'} is a file, and a folder is needed there. Choose another one with “--data FOLDER”.`,
  ],
  [
    /EAI_AGAIN|ENOTFOUND registry|ETIMEDOUT.*registry|network request/i,
    () =>
      'The packages could not be fetched: the package registry does not answer. Look at the network, then start again.',
  ],
];

/** The path that a system’s message names in quotes. */
const placeIn = (said) => /["'“]((?:\/[^"'”:\n]+)+)["'”]/.exec(said)?.[1] ?? null;
