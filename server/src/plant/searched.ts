import { sql } from 'drizzle-orm';
import type { SQL } from 'drizzle-orm';
import type { PlantPartName } from '@loyal-hinge/contract';
import { applications, links, machines, zones } from '../database/schema.js';

/** What is searched of a row, in small letters. */
export const searched: Readonly<Record<PlantPartName, SQL>> = {
  zones: sql`lower(${zones.name} || ' ' || ${zones.id})`,
  machines: sql`lower(concat_ws(' ', ${machines.name}, ${machines.id}, ${machines.description}, host_names_text(${machines.hostNames}),
    host_names_text(${machines.addresses}), (select z.name from zones z where z.id = ${machines.zoneId})))`,
  applications: sql`lower(concat_ws(' ', ${applications.name}, ${applications.id}, ${applications.kind}, ${applications.applicationUri},
    (select m.name from machines m where m.id = ${applications.machineId})))`,
  links: sql`lower(concat_ws(' ', ${links.name}, ${links.id}, ${links.endpointUrl}, ${links.identity}->>'userName', ${links.identity}->>'certificate', ${links.needs}::text))`,
};
