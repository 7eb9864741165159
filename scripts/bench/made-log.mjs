import { closeSync, openSync, writeSync } from 'node:fs';

const pad = (number) => String(number).padStart(2, '0');
const forms = [
  (time, index) =>
    `Nov 20 ${time} door-1 kernel: [ 812.40] OPC-DROP IN=eth0 OUT=eth1 MAC=00:11:22 SRC=10.2.0.${index % 250} DST=10.3.0.40 LEN=60 TOS=0x00 PREC=0x00 TTL=63 ID=${index % 65_536} DF PROTO=TCP SPT=50100 DPT=4840 WINDOW=64240 RES=0x00 SYN URGP=0`,
  (time, index) =>
    `2026-11-20T${time}.123Z press-1 opc[12]: session ${index} of urn:press-1:hmi ended: BadSessionClosed`,
  (time, index) => `{"timestamp":"2026-11-20T${time}.5Z","who":"trend","text":"login ${index}"}`,
];

/** Writes a log of so many lines, one a second, of three forms in turn. */
export function writeLog(file, lines) {
  const out = openSync(file, 'w');
  let text = '';
  for (let index = 0; index < lines; index += 1) {
    const second = index % 86_400;
    const time = `${pad(Math.floor(second / 3600))}:${pad(Math.floor(second / 60) % 60)}:${pad(second % 60)}`;
    text += `${forms[index % forms.length](time, index)}\n`;
    if (text.length < 1 << 20) continue;
    writeSync(out, text);
    text = '';
  }
  writeSync(out, text);
  closeSync(out);
}
