// Reads codes from pictures of the camera, away from the page's own thread.
import { codesIn } from '../../core/codes/camera';
import { prepareZXingModule, readBarcodes } from 'zxing-wasm/reader';
import wasm from 'zxing-wasm/reader/zxing_reader.wasm?url';

void prepareZXingModule({ overrides: { locateFile: () => wasm }, fireImmediately: true });

addEventListener('message', async ({ data }: MessageEvent<ImageData>) => {
	const found = await readBarcodes(data, { textMode: 'Plain', tryHarder: true, maxNumberOfSymbols: 4 }).catch(() => []);
	postMessage(codesIn(found)[0] ?? null);
});
