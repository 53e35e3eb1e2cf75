import { bandHref, fileHref, onStage } from "../place";
import type { BlockProps } from ".";
import "./media.css";

/** A picture of the app, or one of the record. */
export function Picture({ block }: BlockProps<"picture">) {
	const src = block.picture
		? bandHref(block.picture)
		: block.file && block.column && block.row && fileHref(block.row, block.column)(block.file, false);
	if (!src) return onStage ? <p className="card empty">There is no picture yet.</p> : null;
	return <img className="picture-block" src={src} alt={block.text} loading="lazy" />;
}

/** The videos of a record. */
export function Video({ block }: BlockProps<"video">) {
	const { column, row, files } = block;
	if (!column || !row || files.length === 0)
		return onStage ? <p className="card empty">There is no video here yet.</p> : null;
	return files.map((f) => (
		// biome-ignore lint/a11y/useMediaCaption: what people bring has no captions of its own
		<video
			key={f.id}
			className="video-block"
			controls
			preload="metadata"
			src={fileHref(row, column)(f, false)}
			aria-label={f.name}
		/>
	));
}

/** A page of another site. Ours is not shown in itself. */
export function Embed({ block }: BlockProps<"embed">) {
	if (onStage)
		return (
			<p className="card empty">
				{block.title}: people see {block.address} here in the published app.
			</p>
		);
	if (new URL(block.address).origin === location.origin) return null;
	return (
		<iframe
			className="embed-block"
			src={block.address}
			title={block.title}
			style={{ height: block.height || 420 }}
			loading="lazy"
			referrerPolicy="no-referrer"
			sandbox="allow-scripts allow-same-origin allow-forms allow-popups"
		/>
	);
}

/** The choices of a field in a line. Those before the present one are done. */
export function Steps({ block }: BlockProps<"steps">) {
	const at = block.steps.findIndex((s) => s.present);
	return (
		<ol className="steps" aria-label={block.name}>
			{block.steps.map((s, i) => (
				<li key={s.label} className={i < at ? "steps-done" : ""} aria-current={i === at ? "step" : undefined}>
					{s.label}
				</li>
			))}
		</ol>
	);
}
