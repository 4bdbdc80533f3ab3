import { onOrderChange } from '$lib/server/sheet/live';
import { allow, answer } from '$lib/server/request';
import type { RequestHandler } from './$types';

/** Server-sent events: one message whenever the order's sheet changed, with the page that changed it. */
export const GET: RequestHandler = (event) =>
	answer(async () => {
		allow(event, 'read');
		let stop = () => {};
		let beat: ReturnType<typeof setInterval>;
		const stream = new ReadableStream<string>({
			async start(controller) {
				const send = (text: string) => {
					try {
						controller.enqueue(text);
					} catch {
						stop();
						clearInterval(beat);
					}
				};
				stop = await onOrderChange(event.params.code, (by) => send(`data: ${by}\n\n`));
				send(': here\n\n');
				beat = setInterval(() => send(': beat\n\n'), 20_000);
			},
			cancel() {
				stop();
				clearInterval(beat);
			}
		});
		return new Response(stream.pipeThrough(new TextEncoderStream()), {
			headers: { 'content-type': 'text/event-stream', 'cache-control': 'no-store' }
		});
	});
