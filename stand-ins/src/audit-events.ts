import { AttributeIds } from 'node-opcua-data-model';
import type { OPCUAServer } from 'node-opcua-server';
import { WriteRequest } from 'node-opcua-types';
import { DataType, Variant } from 'node-opcua-variant';

/**
 * Tells of writes and of refused sign-ins in audit events (Part 5 §6.4.10, §6.4.21); of sessions the library tells by itself,
 * where a server is auditing.
 */
export class AuditEvents {
  private server: OPCUAServer | null = null;

  tellOf(server: OPCUAServer): void {
    this.server = server;
    server.on('request', (request: unknown) => {
      if (request instanceof WriteRequest) this.written(request);
    });
  }

  refused(userName: string): void {
    this.raise('AuditActivateSessionEventType', {
      ...happened('Session/ActivateSession', false),
      clientUserId: new Variant({ dataType: DataType.String, value: userName }),
    });
  }

  private raise(type: string, fields: Readonly<Record<string, Variant>>): void {
    this.server?.engine.addressSpace?.rootFolder.objects.server.raiseEvent(type, fields);
  }

  private written({ nodesToWrite }: WriteRequest): void {
    for (const { nodeId, attributeId, value } of nodesToWrite ?? []) {
      const node = this.server?.engine.addressSpace?.findNode(nodeId);
      if (!node) continue;
      const before = attributeId === AttributeIds.Value ? node.readAttribute(null, attributeId).value : null;
      this.raise('AuditWriteUpdateEventType', {
        ...happened('Attribute/Write', true),
        sourceNode: new Variant({ dataType: DataType.NodeId, value: nodeId }),
        attributeId: new Variant({ dataType: DataType.UInt32, value: attributeId }),
        ...(before ? { oldValue: before } : {}),
        newValue: value.value,
      });
    }
  }
}

const happened = (sourceName: string, status: boolean) => ({
  actionTimeStamp: new Variant({ dataType: DataType.DateTime, value: new Date() }),
  status: new Variant({ dataType: DataType.Boolean, value: status }),
  sourceName: new Variant({ dataType: DataType.String, value: sourceName }),
});
