import { createHash, randomBytes } from 'node:crypto';

/** 256 bits of chance, fit for a cookie or a header. */
export const newSecret = () => randomBytes(32).toString('base64url');
/** How sessions and tokens are kept: whoever reads the database cannot sign in with what is there. */
export const digest = (secret: string) => createHash('sha256').update(secret).digest('hex');
