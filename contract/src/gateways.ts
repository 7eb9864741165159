import * as z from 'zod';
import { gatewayItems, gatewayPlace, gatewayRelay, gatewayStatistics } from './line/gateway.js';
import { outpost, outpostDoor } from './outposts.js';
import { id, name } from './plant.js';
import { tunnelMachine } from './tunnels.js';

const path = z.string().trim().min(1, 'Give the path of an item.').max(1_000);

/** A gateway, as somebody wants it: where it runs, and where its face listens. */
export const gatewayWish = z.object({
  name,
  machineId: id,
  /** Where clients dial it. */
  address: z
    .string()
    .trim()
    .min(1, 'Give an address of its machine.')
    .max(253)
    .regex(/^[A-Za-z0-9.:_-]+$/, 'Give a host name or an address alone.'),
  port: z.int().min(1, 'A port is at least 1.').max(65_535, 'A port is at most 65535.'),
  /** Where its mapper listens for clients of classic OPC; null: it speaks none. */
  mapperPort: z.int().min(1, 'A port is at least 1.').max(65_535, 'A port is at most 65535.').nullable().default(null),
});
export type GatewayWish = z.infer<typeof gatewayWish>;

/** Where items of one of its links are shown. */
export const placeOfGateway = gatewayPlace.omit({ source: true }).extend({ linkId: id, items: path });
export type PlaceOfGateway = z.infer<typeof placeOfGateway>;
export const placesWish = z.object({ places: z.array(placeOfGateway).max(1_000) });

const relayEnd = z.object({
  /** A link of the gateway to the server that has the item. */
  linkId: z.string().min(1, 'Choose a link.').max(80),
  path,
});
/** An item that gets its value from another item. */
export const relayWish = gatewayRelay.omit({ id: true, from: true, to: true }).extend({ from: relayEnd, to: relayEnd });
export type RelayWish = z.infer<typeof relayWish>;
export const relayOfGateway = relayWish.extend({ id: gatewayRelay.shape.id });
export type RelayOfGateway = z.infer<typeof relayOfGateway>;

export const gateway = z.object({
  outpost,
  clientId: z.string(),
  serverId: z.string(),
  address: z.string(),
  port: z.int(),
  /** What it is for classic OPC; null: it speaks none. */
  classic: z
    .object({
      clientId: z.string(),
      serverId: z.string(),
      mapperPort: z.int(),
      /** By which its classic clients know it. */
      program: z.string(),
      clsid: z.string(),
    })
    .nullable(),
  /**
   * `runs`: it holds what it shall; `told`: it is being told what has changed; `differs`: it can’t hold it; `away`: it is silent;
   * `unset`: it was never heard, or lacks what it needs.
   */
  state: z.enum(['runs', 'told', 'differs', 'away', 'unset']),
  /** Why it does not run. */
  says: z.string().nullable(),
  sources: z.int(),
  sourcesThere: z.int(),
  items: z.int(),
  relays: z.int(),
});
export type Gateway = z.infer<typeof gateway>;

export const gatewaysView = z.object({
  door: outpostDoor,
  gateways: z.array(gateway),
  machines: z.array(tunnelMachine),
});
export type GatewaysView = z.infer<typeof gatewaysView>;

/** A server that a gateway reads: one of its links. */
export const gatewaySource = z.object({
  linkId: z.string(),
  link: z.string(),
  server: z.string(),
  /** `left-out`: it is not told to the gateway; `not-told`: the gateway has not said. */
  state: z.enum(['there', 'dialling', 'left-out', 'not-told']),
  says: z.string().nullable(),
  /** Where it is dialled, and how it is secured; null: it is left out. */
  endpoint: z.string().nullable(),
  items: z.int(),
  changes: z.int(),
  /** Events that were passed on. */
  events: z.int(),
  returns: z.int(),
});
export type GatewaySource = z.infer<typeof gatewaySource>;

/** A client that reads from a gateway: a link to its face. */
export const gatewayReader = z.object({
  linkId: z.string(),
  link: z.string(),
  client: z.string(),
  signsInAs: z.string(),
  mayWrite: z.boolean(),
  /** Why it is not let in; null: it is. */
  says: z.string().nullable(),
});
export type GatewayReader = z.infer<typeof gatewayReader>;

export const gatewayView = z.object({
  door: outpostDoor,
  gateway,
  sources: z.array(gatewaySource),
  readers: z.array(gatewayReader),
  /** As somebody set them; empty: items are shown under the names of their servers. */
  places: z.array(placeOfGateway),
  relays: z.array(relayOfGateway.extend({ written: z.int(), says: z.string().nullable() })),
  statistics: gatewayStatistics.nullable(),
  machines: z.array(tunnelMachine),
});
export type GatewayView = z.infer<typeof gatewayView>;

export const gatewayItemsWish = z.object({
  find: z.string().max(200).default(''),
  from: z.coerce.number().int().min(0).max(1_000_000).default(0),
  count: z.coerce.number().int().min(1).max(500).default(100),
});
export type GatewayItemsWish = z.infer<typeof gatewayItemsWish>;

/** Items as the gateway has them now, each with the link from which it comes. */
export const gatewayItemsView = gatewayItems.extend({
  items: z.array(gatewayItems.shape.items.element.omit({ source: true }).extend({ linkId: z.string() })),
});
export type GatewayItemsView = z.infer<typeof gatewayItemsView>;

export const relaysCsv = z.object({ csv: z.string().min(1, 'The file is empty.').max(5_000_000) });
