import { useRef, useState } from "react";
import { wordsOf } from "../../shared/api/client";
import { sendFile } from "../../shared/fields/files";
import { appUrl } from "../api";

/** Takes a picture of the app; its value is the picture's id. */
export function PictureSlot({
	id,
	app,
	value,
	onChange,
}: {
	id: string;
	app: string;
	value: string;
	onChange: (v: string) => void;
}) {
	const chooser = useRef<HTMLInputElement>(null);
	const [busy, setBusy] = useState(false);
	const [problem, setProblem] = useState("");
	const take = async (file: File | undefined) => {
		if (!file) return;
		setBusy(true);
		setProblem("");
		try {
			onChange((await sendFile(appUrl(app, "/pictures"), file, () => {})).id);
		} catch (e) {
			setProblem(wordsOf(e));
		}
		setBusy(false);
	};
	return (
		<div className="grid gap-2">
			{value && (
				<img src={appUrl(app, `/pictures/${value}`)} alt="As it is now" className="h-20 rounded border border-line" />
			)}
			<input
				ref={chooser}
				type="file"
				accept="image/png,image/jpeg,image/gif,image/webp"
				className="sr-only"
				tabIndex={-1}
				aria-hidden
				onChange={(e) => void take(e.target.files?.[0])}
			/>
			<span className="flex gap-2">
				<button id={id} type="button" className="btn" disabled={busy} onClick={() => chooser.current?.click()}>
					{busy ? "Sending …" : value ? "Choose another picture" : "Choose a picture"}
				</button>
				<button type="button" className="btn" disabled={!value} onClick={() => onChange("")}>
					No picture
				</button>
			</span>
			{problem && (
				<p role="alert" className="text-berry">
					{problem}
				</p>
			)}
		</div>
	);
}
