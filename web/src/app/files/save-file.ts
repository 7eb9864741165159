import { saveBlob } from './save-blob';

/** Hands a text to the browser as a file. */
export const saveFile = (name: string, type: string, text: string): void => saveBlob(name, new Blob([text], { type }));
