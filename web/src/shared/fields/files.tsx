import { Paperclip } from "lucide-react";
import { type DragEvent, useRef, useState } from "react";
import { region } from "../region";
import "./files.css";
import { wordsOf } from "../api/client";
import type { components } from "../api/runtime.gen";
import type { Column, Row } from "./values";

export type FileInfo = components["schemas"]["File"];

/** The files that a field of a record holds. */
export function filesOf(row: Row, column: Column): FileInfo[] {
	const list = row[`${column.id}~`];
	return Array.isArray(list) ? (list as FileInfo[]) : [];
}

export function sizeText(bytes: number): string {
	if (bytes < 1000) return `${bytes} bytes`;
	const [n, unit] =
		bytes < 1_000_000
			? [bytes / 1000, "kB"]
			: bytes < 1_000_000_000
				? [bytes / 1_000_000, "MB"]
				: [bytes / 1_000_000_000, "GB"];
	return `${new Intl.NumberFormat(region(), { maximumFractionDigits: n < 10 ? 1 : 0 }).format(n)} ${unit}`;
}

interface FilesProps {
	row: Row;
	column: Column;
	/** The address of a file; with small, of the small picture of it. */
	href: (file: FileInfo, small: boolean) => string;
	/** How high pictures are, in pixels. */
	height: number;
	/** Only shown, as what is around opens something else. */
	plain?: boolean;
}

/** Pictures to look at, and other files to save. */
export function Files({ row, column, href, height, plain }: FilesProps) {
	const files = filesOf(row, column);
	if (files.length === 0) return null;
	return (
		<span className="inline-flex flex-wrap items-center gap-1.5 align-middle">
			{files.map((f) =>
				plain ? (
					<FileView key={f.id} file={f} src={href(f, true)} height={height} />
				) : (
					<a key={f.id} href={href(f, false)} target="_blank" rel="noreferrer" title={`${f.name}, ${sizeText(f.size)}`}>
						<FileView file={f} src={href(f, true)} height={height} />
					</a>
				),
			)}
		</span>
	);
}

function FileView({ file, src, height }: { file: FileInfo; src: string; height: number }) {
	if (file.picture)
		return (
			<img
				src={src}
				alt={file.name}
				className="rounded object-cover border border-line"
				style={{ height, maxWidth: height * 1.6 }}
				loading="lazy"
			/>
		);
	return (
		<span className="inline-flex items-center gap-1">
			<Paperclip size={14} aria-hidden /> {file.name}
		</span>
	);
}

/** Sends a file and tells how much of it is sent, between 0 and 1. */
export function sendFile(url: string, file: File, progress: (part: number) => void): Promise<FileInfo> {
	return new Promise((resolve, reject) => {
		const lost = () => reject(new Error("The file was not sent. Check your connection and try again."));
		const r = new XMLHttpRequest(); // fetch does not tell how far it is
		r.open("POST", `${url}${url.includes("?") ? "&" : "?"}name=${encodeURIComponent(file.name)}`);
		r.setRequestHeader("Content-Type", "application/octet-stream");
		r.upload.onprogress = (e) => e.lengthComputable && progress(e.loaded / e.total);
		r.onerror = lost;
		r.onload = () => {
			try {
				const said = JSON.parse(r.responseText) as FileInfo & { detail?: string };
				if (r.status < 300) resolve(said);
				else reject(new Error(said.detail ?? "The file was not sent. Please try again."));
			} catch {
				lost();
			}
		};
		r.send(file);
	});
}

interface InputProps {
	id: string;
	column: Column;
	value: string[];
	/** What is known of the files that the field held at first. */
	files: FileInfo[];
	onChange: (ids: string[]) => void;
	send: (file: File, progress: (part: number) => void) => Promise<FileInfo>;
	describedBy?: string;
	invalid?: boolean;
	autoFocus?: boolean;
}

/** Takes files that are chosen or dropped. They are sent at once, and kept when the record is. */
export function FileInput(p: InputProps) {
	const [known, setKnown] = useState(() => Object.fromEntries(p.files.map((f) => [f.id, f])));
	const [sending, setSending] = useState<{ name: string; part: number } | null>(null);
	const [problem, setProblem] = useState("");
	const chooser = useRef<HTMLInputElement>(null);
	const what = p.column.type === "picture" ? "picture" : "file";
	const full = !p.column.several && p.value.length > 0;
	const take = async (list: File[]) => {
		setProblem("");
		let ids = p.column.several ? p.value : [];
		for (const file of p.column.several ? list : list.slice(0, 1)) {
			if (p.column.largest && file.size > p.column.largest) {
				setProblem(`${file.name} is larger than ${Math.floor(p.column.largest / (1 << 20))} MB. Choose a smaller one.`);
				return;
			}
			setSending({ name: file.name, part: 0 });
			try {
				const got = await p.send(file, (part) => setSending({ name: file.name, part }));
				setKnown((old) => ({ ...old, [got.id]: got }));
				ids = [...ids, got.id];
			} catch (e) {
				setProblem(wordsOf(e));
				break;
			}
		}
		setSending(null);
		p.onChange(ids);
	};
	const drop = (e: DragEvent) => {
		e.preventDefault();
		void take([...e.dataTransfer.files]);
	};
	return (
		// biome-ignore lint/a11y/noStaticElementInteractions: the button inside does the same
		<div className="grid gap-2" onDragOver={(e) => e.preventDefault()} onDrop={drop}>
			{p.value.length > 0 && (
				<ul className="grid gap-1">
					{p.value.map((id) => (
						<li key={id} className="flex items-center justify-between gap-2 min-w-0">
							<span className="inline-flex items-center gap-1.5 min-w-0">
								<Paperclip size={14} className="shrink-0" aria-hidden />
								<span className="truncate">{known[id]?.name ?? what}</span>
								{known[id] && <span className="text-soft whitespace-nowrap">{sizeText(known[id].size)}</span>}
							</span>
							<button
								type="button"
								className="link-button shrink-0"
								aria-label={`Remove ${known[id]?.name ?? what}`}
								onClick={() => p.onChange(p.value.filter((x) => x !== id))}
							>
								Remove
							</button>
						</li>
					))}
				</ul>
			)}
			<input
				ref={chooser}
				type="file"
				className="sr-only"
				tabIndex={-1}
				aria-hidden
				multiple={p.column.several}
				accept={what === "picture" ? "image/png,image/jpeg,image/gif,image/webp" : undefined}
				onChange={(e) => {
					void take([...(e.target.files ?? [])]);
					e.target.value = "";
				}}
			/>
			<button
				id={p.id}
				type="button"
				className="file-drop"
				aria-describedby={p.describedBy}
				data-invalid={p.invalid || undefined}
				// biome-ignore lint/a11y/noAutofocus: only set where the person just asked for this control
				autoFocus={p.autoFocus}
				disabled={sending !== null}
				onClick={() => chooser.current?.click()}
			>
				{full ? `Choose another ${what}` : p.column.several ? `Choose ${what}s` : `Choose a ${what}`}, or drop
				{p.column.several ? " them" : " it"} here
			</button>
			{sending && (
				<div className="text-sm" role="status">
					Sending {sending.name} …
					<progress className="w-full" value={sending.part} />
				</div>
			)}
			{problem && (
				<p role="alert" className="text-berry text-sm">
					{problem}
				</p>
			)}
		</div>
	);
}
