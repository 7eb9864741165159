import { z } from 'zod';

/** How the plant is dialled. Nothing outside the declared ranges is ever dialled. */
export const plantSettings = z.object({
  plantName: z.string().trim().min(1, 'The plant needs a name.').max(120),
  declaredRanges: z
    .array(z.union([z.cidrv4(), z.cidrv6()], { error: 'This is no range such as 10.20.0.0/16.' }))
    .max(200),
  /** Address, and port where it is not 53; null: the operating system resolves. */
  nameServer: z
    .string()
    .regex(
      /^(\d{1,3}(\.\d{1,3}){3}(:\d{1,5})?|\[[0-9a-f:]+\](:\d{1,5})?)$/i,
      'This is no address such as 10.20.0.53 or 10.20.0.53:53.',
    )
    .nullable(),
  /** Only where the client machines’ addresses stand on this computer too. */
  dialFromClientAddress: z.boolean(),
  /** Whether an authority without a usable CRL is a failure. */
  crlsDemanded: z.boolean(),
  /** Whether a work order is approved by another person than the one who proposed it. */
  approvedByAnother: z.boolean(),
});
export type PlantSettings = z.infer<typeof plantSettings>;
