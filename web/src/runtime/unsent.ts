import { base, type Form, type Where } from "./place";

/*
 * Answers that were not sent yet. They outlive a reload and a session that ended, in this tab; whoever signs in as somebody
 * else does not find them, nor does anybody after signing out or sending.
 */
const prefix = `pinegate ${base} `;
const whose = `${prefix}person`;

/** The name by which the answers to a form are kept. */
export const keptAs = (form: Form, where: Where) => `${form.id} ${where.path} ${where.record} ${form.revision}`;

/** Keeps something of somebody for later; a browser that keeps nothing loses it with the page. */
export function keepUnsent(key: string, values: unknown) {
	try {
		sessionStorage.setItem(`${prefix}answers ${key}`, JSON.stringify(values));
	} catch {
		// it is full, or not allowed to keep anything
	}
}

/** What was kept, or null. */
export function unsent<T>(key: string): T | null {
	try {
		return JSON.parse(sessionStorage.getItem(`${prefix}answers ${key}`) ?? "null") as T | null;
	} catch {
		return null;
	}
}

export function forgetUnsent(key: string) {
	try {
		sessionStorage.removeItem(`${prefix}answers ${key}`);
	} catch {
		// then there is nothing either
	}
}

/** Forgets all that was kept in the app. */
export function forgetAllUnsent() {
	try {
		for (const key of Object.keys(sessionStorage)) if (key.startsWith(prefix)) sessionStorage.removeItem(key);
	} catch {
		// then there is nothing either
	}
}

/** Notes who is signed in, by their address, and forgets what somebody else had answered. */
export function noticePerson(person: string) {
	if (!person) return;
	try {
		const before = sessionStorage.getItem(whose);
		if (before && before !== person) forgetAllUnsent();
		sessionStorage.setItem(whose, person);
	} catch {
		// nothing is kept for anybody
	}
}
