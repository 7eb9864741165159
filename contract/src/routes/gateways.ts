import * as z from 'zod';
import {
  gatewayItemsView,
  gatewayItemsWish,
  gatewaysView,
  gatewayView,
  gatewayWish,
  placesWish,
  relaysCsv,
  relayWish,
} from '../gateways.js';
import { at } from './addresses.js';
import { done, route } from './route.js';

/** Gateways: what they read, what they show, and the values that they carry from item to item. */
export const gatewayRoutes = {
  gateways: route(at.gateways, {
    summary: 'Gateways, and how they stand',
    role: 'viewer',
    answer: gatewaysView,
  }),
  addGateway: route(at.addGateway, {
    summary: 'Adds a gateway, and to the plant the client and the server that it is',
    role: 'engineer',
    body: gatewayWish,
    answer: z.object({ id: z.string() }),
  }),
  gateway: route(at.gateway, {
    summary: 'A gateway with the servers that it reads, its readers, and its relays',
    role: 'viewer',
    answer: gatewayView,
  }),
  putGateway: route(at.putGateway, {
    summary: 'Changes a gateway’s name, and where its clients dial it',
    role: 'engineer',
    body: gatewayWish,
    answer: done,
  }),
  removeGateway: route(at.removeGateway, {
    summary: 'Removes a gateway that has no links any more',
    role: 'engineer',
    answer: done,
  }),
  gatewayItems: route(at.gatewayItems, {
    summary: 'Items of a gateway with their values, as it has them now',
    role: 'viewer',
    query: gatewayItemsWish,
    answer: gatewayItemsView,
  }),
  putGatewayPlaces: route(at.putGatewayPlaces, {
    summary: 'Changes where a gateway shows items',
    role: 'engineer',
    body: placesWish,
    answer: done,
  }),
  addRelay: route(at.addRelay, {
    summary: 'Adds a relay: an item gets its value from another item',
    role: 'engineer',
    body: relayWish,
    answer: z.object({ id: z.string() }),
  }),
  relaysCsv: route(at.relaysCsv, {
    summary: 'The relays of a gateway as CSV',
    role: 'viewer',
    answer: relaysCsv,
  }),
  importRelays: route(at.importRelays, {
    summary: 'Takes relays from CSV: those with a known id are changed, others are added; all or none',
    role: 'engineer',
    body: relaysCsv,
    answer: z.object({ relays: z.int() }),
  }),
  putRelay: route(at.putRelay, {
    summary: 'Changes a relay',
    role: 'engineer',
    body: relayWish,
    answer: done,
  }),
  removeRelay: route(at.removeRelay, {
    summary: 'Removes a relay; its item keeps the value that it has',
    role: 'engineer',
    answer: done,
  }),
};
