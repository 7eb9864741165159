import * as z from 'zod';

const ipv4 = z.ipv4();
const ipv6 = z.ipv6();

/** An IP address, IPv6 in brackets, and a port where it is not 53. */
function isNameServer(text: string): boolean {
  const read = /^(?:\[(?<v6>[^\]]+)\]|(?<v4>[^:[\]]+))(?::(?<port>\d{1,5}))?$/.exec(text)?.groups;
  if (!read) return false;
  const port = Number(read['port'] ?? 53);
  const isAddress = read['v6'] === undefined ? ipv4.safeParse(read['v4']).success : ipv6.safeParse(read['v6']).success;
  return isAddress && port >= 1 && port <= 65_535;
}

/** An IP address, IPv6 in brackets, and a port. */
const isPlace = (text: string): boolean => isNameServer(text) && /:\d{1,5}$/.test(text) && !/^\[[^\]]*\]$/.test(text);

export const usualDevicePauseMs = 50;

/** How the plant is dialled. Nothing outside the declared ranges is ever dialled. */
export const plantSettings = z.object({
  plantName: z.string().trim().min(1, 'The plant needs a name.').max(120),
  declaredRanges: z
    .array(z.union([z.cidrv4(), z.cidrv6()], { error: 'This is no range such as 10.20.0.0/16.' }))
    .max(200),
  /** Address, and port where it is not 53; null: the operating system resolves. */
  nameServer: z.string().refine(isNameServer, 'This is no address such as 10.20.0.53 or 10.20.0.53:53.').nullable(),
  /** Only where the client machines’ addresses stand on this computer too. */
  dialFromClientAddress: z.boolean(),
  /** Whether an authority without a usable CRL is a failure. */
  crlsDemanded: z.boolean(),
  /** Whether a work order is approved by another person than the one who proposed it. */
  approvedByAnother: z.boolean(),
  /** How long checks and their facts are kept; those that a verdict of today rests on are kept longer. */
  checksKeptDays: z.int().min(1, 'At least one day.').max(3650, 'At most ten years.').default(90),
  /** How long captures and logs that were brought are kept, with all that they tell. */
  recordsKeptDays: z.int().min(1, 'At least one day.').max(3650, 'At most ten years.').default(365),
  /** Whether the files themselves are kept, too, after they were read. */
  recordedFilesKept: z.boolean().default(true),
  /** Milliseconds that lie between two requests to a field device, for others who ask it. */
  devicePauseMs: z.int().min(10, 'At least 10 ms.').max(10_000, 'At most ten seconds.').default(usualDevicePauseMs),
  /** Where messages of syslog are taken, over UDP and TCP; null: nowhere. */
  syslogAt: z.string().refine(isPlace, 'Write an address and a port, such as 10.20.0.5:5140.').nullable().default(null),
});
export type PlantSettings = z.infer<typeof plantSettings>;
