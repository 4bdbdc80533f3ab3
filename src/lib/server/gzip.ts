import { once } from 'node:events';
import { constants, createGzip } from 'node:zlib';

/** A body as gzip. What comes in parts goes in parts: none waits here for the next. */
export function gzipped(body: ReadableStream<Uint8Array>): ReadableStream<Uint8Array> {
	const zip = createGzip({ flush: constants.Z_SYNC_FLUSH });
	const reader = body.getReader();
	const feed = async () => {
		for (;;) {
			const { done, value } = await reader.read();
			if (done) return void zip.end();
			if (!zip.write(value)) await once(zip, 'drain');
		}
	};
	feed().catch((e: Error) => zip.destroy(e));
	const parts = zip[Symbol.asyncIterator]();
	return new ReadableStream<Uint8Array>({
		async pull(out) {
			const { done, value } = await parts.next();
			if (done) out.close();
			else out.enqueue(new Uint8Array(value));
		},
		async cancel() {
			zip.destroy();
			await reader.cancel();
		}
	});
}
