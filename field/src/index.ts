export * from './modbus/line.js';
export * from './modbus/read-places.js';
export * from './modbus/device.js';
export * from './modbus/say-asked.js';
export * from './when-silent.js';
