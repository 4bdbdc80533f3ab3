// The clock of the simulated scanner: a real one sends its keys whether or not the page has time for them.
interface Send {
	keys: number;
	/** ms from one key to the next */
	pause: number;
}

addEventListener('message', ({ data: { keys, pause } }: MessageEvent<Send>) => {
	let sent = 0;
	const send = () => {
		postMessage(performance.timeOrigin + performance.now());
		if (++sent < keys) setTimeout(send, pause);
	};
	send();
});
