import type { FormControl } from '@angular/forms';
import type { TunnelMachine } from '@loyal-hinge/contract';

/** Proposes the address of a machine that was chosen, where nothing else was written. */
export function proposeAddress(
  address: FormControl<string>,
  machineId: string,
  machines: readonly TunnelMachine[],
): void {
  const proposed = machines.flatMap(({ addresses }) => addresses.slice(0, 1));
  if (address.value !== '' && !proposed.includes(address.value)) return;
  address.setValue(machines.find(({ id }) => id === machineId)?.addresses[0] ?? '');
}
