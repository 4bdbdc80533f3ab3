/** Text for the inside of a LIKE pattern. */
export const like = (text: string) => text.replace(/[\\%_]/g, '\\$&');
