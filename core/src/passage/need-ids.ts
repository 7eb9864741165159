/*
 * The plant needs openings for links, for services of zones, and for servers that ask devices behind them. Needs are told apart by
 * an id: that of a link is the link’s own, which has no colon.
 */

export const serviceNeedId = (serviceId: string, zoneId: string): string => `service:${serviceId}:${zoneId}`;
export const deviceNeedId = (serverId: string, deviceId: string): string => `device:${serverId}:${deviceId}`;
export const isLinkNeed = (needId: string): boolean => !needId.includes(':');
