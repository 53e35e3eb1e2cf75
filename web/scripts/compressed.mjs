import { readdir, readFile, writeFile } from "node:fs/promises";
import { join } from "node:path";
import { promisify } from "node:util";
import { brotliCompress, constants, gzip } from "node:zlib";

const texts = /\.(js|css|html|svg)$/;
/** Below this, what is saved is less than what the headers cost. */
const least = 300;

/** Writes each text of a build a second and a third time, compressed as browsers understand it. */
export const compressed = () => ({
	name: "compressed",
	apply: "build",
	async writeBundle({ dir }) {
		const entries = await readdir(dir, { recursive: true });
		await Promise.all(
			entries
				.filter((e) => texts.test(e))
				.map(async (e) => {
					const raw = await readFile(join(dir, e));
					if (raw.length < least) return;
					const params = { [constants.BROTLI_PARAM_SIZE_HINT]: raw.length };
					await writeFile(join(dir, `${e}.br`), await promisify(brotliCompress)(raw, { params }));
					await writeFile(join(dir, `${e}.gz`), await promisify(gzip)(raw, { level: 9 }));
				}),
		);
	},
});
