import { request, withQuery } from "../shared/api/client";
import type { components } from "../shared/api/runtime.gen";
import { type FileInfo, sendFile } from "../shared/fields/files";
import type { Column, Row } from "../shared/fields/values";

type Schemas = components["schemas"];
export type App = Schemas["App"];
export type Page = Schemas["Page"];
export type Block = Schemas["Block"];
export type BlockOf<K extends Block["kind"]> = Extract<Block, { kind: K }>;
export type Records = Schemas["Records"];
export type ServiceRows = Schemas["ServiceRows"];
export type Form = Schemas["Form"] | Schemas["Calculator"];
export type Behind = Schemas["Behind"];
export type Target = Schemas["Target"];
export type FormState = Schemas["FormState"];
export type Done = Schemas["Done"];
export type OptionList = Schemas["OptionList"];

/** Where the app is: /a/its-name for its people, /stage/its-id/seen-as for its builder. */
export const base = /^\/(a\/[^/]+|stage\/[^/]+\/[^/]+)/.exec(location.pathname)?.[0] ?? "/";

/** Whether a builder looks at this app in the builder. */
export const onStage = base.startsWith("/stage/");

export interface Where {
	path: string;
	record: string;
	/** The token of whoever was invited, where only those are asked. */
	invitation?: string;
}

export const getApp = () => request<App>("GET", `${base}/-/app`);

/** A page, with what the address asks of its blocks. */
export const getPage = (w: Where, view: string) =>
	request<Page>("GET", withQuery(`${base}/-/page`, { path: w.path, record: w.record, view }));

export const getRows = (block: string, w: Where, view: string, after: string, column?: string) =>
	request<Records>("GET", withQuery(`${base}/-/lists/${block}`, { ...w, view, after, column }));

export const changeRow = (block: string, w: Where, row: Row, values: { [field: string]: unknown }) =>
	request<Schemas["RowChanged"]>("POST", `${base}/-/lists/${block}/rows/${row.id}`, {
		...w,
		revision: row.revision,
		values,
	});

export const listFile = (block: string, w: Where, view: string, format: "csv" | "xlsx") =>
	withQuery(`${base}/-/lists/${block}/file`, { ...w, view, format });

export const getOptions = (block: string, field: string, w: Where, search: string) =>
	request<OptionList>("GET", withQuery(`${base}/-/options/${block}/${field}`, { ...w, search }));

export const sendFormFile =
	(block: string, field: string, w: Where) => (file: File, progress: (part: number) => void) =>
		sendFile(withQuery(`${base}/-/files/${block}/${field}`, { ...w }), file, progress);

/** The address of a file that a record holds. */
export const fileHref = (row: Row, column: Column) => (file: FileInfo, small: boolean) =>
	withQuery(`${base}/-/files/${column.table}/${row.id}/${column.id}/${file.id}`, { small });

export const pictureHref = (picture: string) => `${base}/-/pictures/${picture}`;

/** The address of a picture that fills a band, or a page. */
export const bandHref = (picture: string) => `${pictureHref(picture)}?whole=true`;

/** The key of a form that is shown. Sent again with it, a form is not written again. */
export const newKey = () =>
	Array.from(crypto.getRandomValues(new Uint8Array(16)), (b) => b.toString(16).padStart(2, "0")).join("");

/** How a form is with what was answered so far. Questions that are had already are not sent again. */
export const askForm = (
	block: string,
	w: Where,
	asked: {
		answers: { [field: string]: unknown };
		with?: { [block: string]: unknown[] };
		have: string[];
		search?: { [question: string]: string };
		review?: boolean;
	},
) => request<FormState>("POST", `${base}/-/forms/${block}/state`, { ...w, ...asked });

/** A form that stands by itself. */
export const getStandalone = (name: string) =>
	request<Schemas["Standalone"]>("GET", `${base}/-/standalone/${encodeURIComponent(name)}`);

interface SentForm {
	answers: { [field: string]: unknown };
	with?: { [block: string]: unknown[] };
	stamp?: string;
	website?: string;
	rehearse?: boolean;
}

export const sendForm = (
	key: string,
	block: string,
	w: Where,
	revision: number,
	{ answers, with: lines, stamp, website, rehearse }: SentForm,
) =>
	request<Done>("POST", `${base}/-/forms/${block}`, {
		key,
		...w,
		revision,
		values: answers,
		with: lines,
		stamp,
		website: website || undefined,
		rehearse,
	});

/** Keeps values for whoever looks; null forgets one. */
export const keepValues = (values: { [id: string]: unknown }) => request<void>("POST", `${base}/-/kept`, { values });

export const signOut = () => request<void>("POST", `${base}/-/sign-out`);

export const addressOf = (t: Target) => `/${t.path}${t.record ? `/${t.record}` : ""}`;
