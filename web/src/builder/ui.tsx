import { Image, Paperclip } from "lucide-react";
import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { wordsOf } from "../shared/api/client";

/** The name of the product, with its mark: two posts and a beam. */
export function Wordmark() {
	return (
		<span className="inline-flex items-center gap-2 font-display font-semibold text-lg tracking-tight">
			<svg width="20" height="20" viewBox="0 0 20 20" aria-hidden="true" focusable="false">
				<path
					d="M4 18V7M16 18V7M1 7h18M10 7V2M6.5 4.5 10 2l3.5 2.5"
					fill="none"
					stroke="currentColor"
					strokeWidth="2"
					strokeLinecap="round"
					strokeLinejoin="round"
				/>
			</svg>
			Pine Gate
		</span>
	);
}

export function Loading() {
	return (
		<p role="status" className="p-6 text-soft">
			Loading …
		</p>
	);
}

export function ErrorNote({ error, retry }: { error: unknown; retry?: () => void }) {
	return (
		<div role="alert" className="note-bad m-4 flex items-center gap-3">
			<span className="flex-1">{wordsOf(error)}</span>
			{retry && (
				<button type="button" className="btn" onClick={retry}>
					Try again
				</button>
			)}
		</div>
	);
}

export function Empty({ title, children }: { title: string; children: ReactNode }) {
	return (
		<div className="p-8 grid gap-2 justify-items-start max-w-lg">
			<h3 className="font-display text-lg font-semibold">{title}</h3>
			<div className="text-soft grid gap-3">{children}</div>
		</div>
	);
}

interface ModalProps {
	title: string;
	open: boolean;
	onClose: () => void;
	children: ReactNode;
	wide?: boolean | "most";
}

const widths: { [wide: string]: string } = {
	most: "w-[min(66rem,94vw)]",
	true: "w-[min(46rem,92vw)]",
	false: "w-[min(28rem,92vw)]",
};

/** A window over everything else. */
export function Modal({ title, open, onClose, children, wide }: ModalProps) {
	return (
		<Dialog.Root open={open} onOpenChange={(o) => !o && onClose()}>
			<Dialog.Portal>
				<Dialog.Overlay className="fixed inset-0 bg-black/40 z-40" />
				<Dialog.Content
					aria-describedby={undefined}
					className={`fixed z-50 left-1/2 top-[10vh] -translate-x-1/2 bg-surface text-ink rounded-md border border-line p-5 max-h-[80vh] overflow-auto ${widths[String(wide ?? false)]}`}
				>
					<Dialog.Title className="font-display text-lg font-semibold mb-3">{title}</Dialog.Title>
					{children}
				</Dialog.Content>
			</Dialog.Portal>
		</Dialog.Root>
	);
}

/** Asks before something is destroyed. */
export function Confirm({
	text,
	label,
	onYes,
	onNo,
}: {
	text: string;
	label: string;
	onYes: () => void;
	onNo: () => void;
}) {
	return (
		<Modal title={label} open onClose={onNo}>
			<p>{text}</p>
			<div className="flex justify-end gap-2 mt-5">
				<button type="button" className="btn" onClick={onNo}>
					Cancel
				</button>
				<button type="button" className="btn btn-danger" onClick={onYes}>
					{label}
				</button>
			</div>
		</Modal>
	);
}

/** A moment in the reader's own words. */
export function moment(iso: string): string {
	return new Date(iso).toLocaleString(undefined, { dateStyle: "medium", timeStyle: "short" });
}

interface ViewsProps<V extends string> {
	views: readonly (readonly [V, string])[];
	view: V;
	onView: (to: V) => void;
}

/** Chooses among the views of a stage. */
export function Views<V extends string>({ views, view, onView }: ViewsProps<V>) {
	return (
		<div className="flex items-center gap-1 px-3 h-11 border-b border-line shrink-0">
			{views.map(([id, words]) => (
				<button
					key={id}
					type="button"
					className={`px-2 py-1 rounded-md ${view === id ? "bg-surface font-semibold" : "text-soft"}`}
					aria-pressed={view === id}
					onClick={() => onView(id)}
				>
					{words}
				</button>
			))}
		</div>
	);
}

/** The pictures that an email shows below its text, and the files that go with it. */
export function Attached({ shown, files }: { shown?: string[] | null; files?: string[] | null }) {
	return (
		<>
			<Named icon={<Image size={14} aria-hidden />} what="Shown: " names={shown} />
			<Named icon={<Paperclip size={14} aria-hidden />} what="Attached: " names={files} />
		</>
	);
}

function Named({ icon, what, names }: { icon: ReactNode; what: string; names?: string[] | null }) {
	if (!names?.length) return null;
	return (
		<p className="flex items-center gap-1.5 mt-2 text-soft">
			{icon}
			<span>
				<span className="sr-only">{what}</span>
				{names.join(", ")}
			</span>
		</p>
	);
}
