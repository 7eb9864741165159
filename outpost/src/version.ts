/** Of the messages that are understood here. */
export const version = '1';
