/** What one line in the Common Event Format says. */
export interface CefEvent {
  /** Whose event it is: vendor, product, its version. */
  readonly device: readonly [vendor: string, product: string, version: string];
  /** What kind of event it is, for programs. */
  readonly kind: string;
  /** The same for people. */
  readonly name: string;
  /** From 0 to 10. */
  readonly severity: number;
  /** In their order, by the keys of the format’s dictionary: letters and digits only. */
  readonly extension: readonly (readonly [key: string, value: string | number])[];
}

/** One line in the Common Event Format, version 0 (CEF:0), without its end: nothing in a value ends the value or the line. */
export function cefLine({ device, kind, name, severity, extension }: CefEvent): string {
  const header = [...device, kind, name, String(severity)].map(inHeader).join('|');
  return `CEF:0|${header}|${extension.map(([key, value]) => `${key}=${inValue(String(value))}`).join(' ')}`;
}

const inHeader = (text: string): string => text.replace(/[\\|]/g, '\\$&').replace(/[\r\n]+/g, ' ');
const inValue = (text: string): string => text.replace(/[\\=]/g, '\\$&').replace(/\r/g, '\\r').replace(/\n/g, '\\n');
