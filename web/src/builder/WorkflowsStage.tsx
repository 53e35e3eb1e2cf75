import { useState } from "react";
import type { AppOut } from "./api";
import { Empty, Views } from "./ui";
import { Rehearse } from "./workflows/Rehearse";
import { Runs } from "./workflows/Runs";
import { Services } from "./workflows/Services";
import { WhyRan } from "./workflows/WhyRan";

const views = [
	["rehearse", "Rehearse"],
	["runs", "Runs"],
	["why", "Why?"],
	["services", "Services"],
] as const;

/** The workflows of the app: rehearsed before they run, and what they did. */
export function WorkflowsStage({ app, flow, as }: { app: AppOut; flow: string; as: string }) {
	const [view, setView] = useState<(typeof views)[number][0]>("rehearse");
	const open = app.workflows.find((w) => w.id === flow);
	return (
		<>
			<Views views={views} view={view} onView={setView} />
			<div className="flex-1 min-h-0 overflow-auto">
				{view === "services" ? (
					<Services app={app} />
				) : view === "why" && app.workflows.length > 0 ? (
					<WhyRan app={app} />
				) : view === "runs" ? (
					<Runs key={open?.id} app={app} flow={open?.id ?? ""} />
				) : open ? (
					<Rehearse key={open.id + as} app={app} flow={open} as={as} />
				) : app.workflows.length > 0 ? (
					<Empty title="Which workflow?">
						<p>Open one in the script. Here you can try it with real records before anyone is touched by it.</p>
					</Empty>
				) : (
					<Empty title="No workflows yet">
						<p>
							A workflow is what the app does by itself, or at the press of a button: add and change records, send
							emails, show messages.
						</p>
						<p>Add one in the script. Then rehearse it here before anyone is touched by it.</p>
					</Empty>
				)}
			</div>
		</>
	);
}
