export * from './modbus/tables.js';
export * from './modbus/addresses.js';
export * from './modbus/frames.js';
export * from './modbus/exceptions.js';
export * from './value-form.js';
export * from './find-register.js';
export * from './compare-origin.js';
export * from './samples-file.js';
