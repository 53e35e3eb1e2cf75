import { Check, Copy } from "lucide-react";
import { useState } from "react";
import { useApp } from "../api";

interface FormAddressProps {
	id: string;
	app: string;
	value: string;
	onChange: (v: string) => void;
}

/** The address at which a form stands by itself, and what puts it into a page of another site. */
export function FormAddress({ id, app, value, onChange }: FormAddressProps) {
	const { data } = useApp(app);
	const address = `${location.origin}/a/${data?.slug ?? ""}/~/form/${value}`;
	return (
		<div className="grid gap-2">
			<input
				id={id}
				className="input"
				value={value}
				placeholder="enquiry"
				onChange={(e) => onChange(e.target.value.toLowerCase())}
			/>
			{value && data && (
				<>
					<Copied label="Its address, once it is published" text={address} />
					<Copied
						label="To put it into a page of a site that you list, copy this there"
						text={snippet(address, value)}
						long
					/>
				</>
			)}
		</div>
	);
}

const snippet = (address: string, name: string) =>
	`<iframe src="${address}" title="Form" height="600" style="width: 100%; border: 0"></iframe>
<script>
addEventListener("message", (e) => {
  const frame = document.querySelector('iframe[src="${address}"]');
  if (e.source === frame.contentWindow && e.data.form === "${name}") frame.height = e.data.height;
});
</script>`;

function Copied({ label, text, long }: { label: string; text: string; long?: boolean }) {
	const [copied, setCopied] = useState(false);
	return (
		<div className="grid gap-1 text-sm">
			<div className="flex items-center justify-between gap-2">
				<span className="text-soft">{label}</span>
				<button
					type="button"
					className="link-button inline-flex items-center gap-1"
					onClick={() => void navigator.clipboard.writeText(text).then(() => setCopied(true))}
				>
					{copied ? <Check size={14} aria-hidden /> : <Copy size={14} aria-hidden />} {copied ? "Copied" : "Copy"}
				</button>
			</div>
			<pre
				className={`${long ? "max-h-28" : ""} overflow-auto whitespace-pre-wrap break-all rounded border border-line p-2 text-xs`}
			>
				{text}
			</pre>
		</div>
	);
}
