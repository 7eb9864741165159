import type { Machine, Zone } from '@loyal-hinge/core';
import { inBlock } from './address-block.js';

/** Marrowby Glass, a made-up float-glass works: what the engineer knows of it, and what really stands there. */

export const domain = 'marrowby.example';
export const host = (name: string): string => `${name}.${domain}`;
export const uri = (name: string): string => `urn:${domain}:${name}`;

export const zones: readonly Zone[] = [
  { id: 'batch-house', name: 'Batch House', order: 1, targetLevel: 1 },
  { id: 'hot-end', name: 'Hot End', order: 2, targetLevel: 3 },
  { id: 'cold-end', name: 'Cold End', order: 3, targetLevel: 2 },
  { id: 'control-room', name: 'Control Room', order: 4, targetLevel: 2 },
  { id: 'plant-dmz', name: 'Plant DMZ', order: 5, targetLevel: 2 },
  { id: 'works-office', name: 'Works Office', order: 6 },
];

const machine = (id: string, zoneId: string, name: string, address: string, description: string): Machine => ({
  id,
  zoneId,
  name,
  description,
  hostNames: [host(id)],
  addresses: [inBlock(address)],
});

export const machines: readonly Machine[] = [
  machine('batch-scales', 'batch-house', 'Batch scales', '10.11', 'Weighs sand, soda ash and cullet'),
  machine('weighbridge', 'batch-house', 'Weighbridge', '10.12', 'Lorry scale at the gate'),
  machine('silo-levels', 'batch-house', 'Silo levels', '10.13', 'Radar gauges of the six silos'),
  machine('dust-filter', 'batch-house', 'Dust filter', '10.14', 'Bag filter above the mixers'),
  machine('furnace', 'hot-end', 'Furnace control', '20.11', 'Cross-fired furnace, six ports'),
  machine('tin-bath', 'hot-end', 'Tin bath control', '20.12', 'Atmosphere and top rollers'),
  machine('cullet-crusher', 'hot-end', 'Cullet crusher', '20.13', 'Returns broken glass to the batch'),
  {
    ...machine('lehr', 'cold-end', 'Lehr control', '30.11', 'Annealing lehr, eight zones, two network cards'),
    hostNames: [host('lehr'), host('lehr-both')],
    addresses: [inBlock('30.11'), inBlock('30.111')],
  },
  machine('cutter', 'cold-end', 'Cutter control', '30.12', 'Cutting bridges and snapping rolls'),
  machine('stacker', 'cold-end', 'Stacker', '30.13', 'Takes the cut plates off the line'),
  machine('inspection', 'cold-end', 'Glass inspection', '30.14', 'Camera line behind the lehr'),
  machine('line-display', 'control-room', 'Line display', '40.21', 'Wall of screens'),
  machine('maintenance-laptop', 'control-room', 'Maintenance laptop', '40.31', 'Carried to the cabinets'),
  machine('old-recorder', 'control-room', 'Old recorder', '40.41', 'Paperless recorder of the first years'),
  machine('history', 'plant-dmz', 'History node', '50.21', 'Keeps process values for the office'),
  machine('energy', 'works-office', 'Energy board', '60.21', 'Gas and power per tonne of glass'),
  machine('cullet-sorter', 'batch-house', 'Cullet sorter', '10.21', 'Sorts returned glass by colour'),
  machine('cooling-water', 'hot-end', 'Cooling water', '20.21', 'Pumps and towers of the furnace'),
  machine('gas-meter', 'hot-end', 'Gas meter', '20.22', 'Natural gas of the whole works'),
  machine('crane', 'cold-end', 'Crane', '30.21', 'Carries plates to the store'),
  machine('recipes', 'control-room', 'Recipe store', '40.61', 'Set points and limits of each kind of glass'),
  machine('archive', 'plant-dmz', 'Archive', '50.41', 'Ten years of values from the whole works'),
  machine('engineering', 'control-room', 'Security desk', '40.51', 'From here trust lists are changed'),
  machine('directory', 'plant-dmz', 'Directory', '50.31', 'Tells which OPC servers have registered'),
  machine('glass-lab', 'works-office', 'Glass laboratory', '60.31', 'Density and stress of samples'),
  machine('quality', 'works-office', 'Quality board', '60.41', 'Faults, waste and yield by shift'),
  machine('field-data', 'hot-end', 'Field data node', '20.70', 'Asks devices, and shows their values over OPC UA'),
  machine('batch-weigher', 'batch-house', 'Batch weigher', '10.71', 'Weighing controller of sand and soda ash'),
  machine('cullet-scale', 'batch-house', 'Cullet scale', '10.72', 'Belt scale, takes one connection'),
  machine('water-meter', 'hot-end', 'Water meter', '20.71', 'Flow and temperature of cooling water'),
  machine('burner-panel', 'hot-end', 'Burner panel', '20.72', 'Air and gas of the burners'),
  machine('stack-probe', 'batch-house', 'Stack probe', '10.73', 'Draught in the stack of the dust filter'),
  machine('bath-level', 'hot-end', 'Bath level gauge', '20.74', 'Level of the glass bath'),
  machine('lehr-drive', 'cold-end', 'Lehr drive', '30.71', 'Drive of the lehr’s rollers'),
];

/** Stands in the plant, and in no list of its engineer. */
export const unknownMachine = machine(
  'dosing-pump',
  'batch-house',
  'Dosing pump',
  '10.31',
  'Doses sodium sulphate; put up by a contractor',
);
