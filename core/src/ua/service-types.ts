/** Services (Part 4) with the numeric ids of their requests and answers in UA Binary, namespace 0 (Part 6, Annex A). */
const byThree: Readonly<Record<string, number>> = {
  FindServers: 422,
  GetEndpoints: 428,
  RegisterServer: 437,
  OpenSecureChannel: 446,
  CloseSecureChannel: 452,
  CreateSession: 461,
  ActivateSession: 467,
  CloseSession: 473,
  Cancel: 479,
  AddNodes: 488,
  AddReferences: 494,
  DeleteNodes: 500,
  DeleteReferences: 506,
  Browse: 527,
  BrowseNext: 533,
  TranslateBrowsePathsToNodeIds: 554,
  RegisterNodes: 560,
  UnregisterNodes: 566,
  QueryFirst: 615,
  QueryNext: 621,
  Read: 631,
  HistoryRead: 664,
  Write: 673,
  HistoryUpdate: 700,
  Call: 712,
  CreateMonitoredItems: 751,
  ModifyMonitoredItems: 763,
  SetMonitoringMode: 769,
  SetTriggering: 775,
  DeleteMonitoredItems: 781,
  CreateSubscription: 787,
  ModifySubscription: 793,
  SetPublishingMode: 799,
  Publish: 826,
  Republish: 832,
  TransferSubscriptions: 841,
  DeleteSubscriptions: 847,
};
const newer: Readonly<Record<string, readonly [request: number, response: number]>> = {
  FindServersOnNetwork: [12208, 12209],
  RegisterServer2: [12211, 12212],
};

export interface ServiceMessage {
  readonly name: string;
  readonly isRequest: boolean;
}

/** A ServiceFault answers any request (Part 4 §7.35). */
export const serviceFault = 397;

/** By their ids: a capture asks for millions of them. */
const messages = Array.from(
  { length: 1 + Math.max(...Object.values(newer).flat()) },
  (): ServiceMessage | null => null,
);
for (const [name, request] of Object.entries(byThree)) {
  messages[request] = { name, isRequest: true };
  messages[request + 3] = { name, isRequest: false };
}
for (const [name, [request, response]] of Object.entries(newer)) {
  messages[request] = { name, isRequest: true };
  messages[response] = { name, isRequest: false };
}
messages[serviceFault] = { name: 'ServiceFault', isRequest: false };

/** Which message has a numeric id of namespace 0; null: none that is known. */
export const serviceMessageOf = (typeId: number): ServiceMessage | null => messages[typeId] ?? null;

/** Encodings of what a user shows (Part 4 §7.40). */
export const identityTokens = { anonymous: 321, userName: 324, certificate: 327, issued: 940 } as const;
