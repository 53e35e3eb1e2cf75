// Completes package-lock.json after a change of dependencies: npm leaves out
// optional packages for other platforms that its registry does not have, and
// then refuses its own lock. Each gets an entry that no platform installs.
import { readFileSync, writeFileSync } from "node:fs";

const file = new URL("../package-lock.json", import.meta.url);
const lock = JSON.parse(readFileSync(file, "utf8"));
const added = [];
for (const entry of Object.values(lock.packages)) {
	for (const [name, version] of Object.entries(entry.optionalDependencies ?? {})) {
		const key = `node_modules/${name}`;
		if (lock.packages[key]) continue;
		lock.packages[key] = { version: version.replace(/^[^0-9]*/, ""), optional: true, os: ["none"], cpu: ["none"] };
		added.push(name);
	}
}
lock.packages = Object.fromEntries(Object.entries(lock.packages).sort(([a], [b]) => (a < b ? -1 : 1)));
writeFileSync(file, `${JSON.stringify(lock, null, "\t")}\n`);
console.log(added.length ? `Added ${added.join(", ")}` : "Nothing was missing");
