import { Modal } from "./ui";

const keys = [
	["Alt+1 … Alt+4", "walk the trail: Data, People, Pages, Publish"],
	["Alt+P", "choose as whom the app is seen"],
	["Ctrl+Z", "undo any change to the app"],
	["Ctrl+Shift+Z", "redo it"],
	["Arrows, Tab", "move between the cells of the grid"],
	["Enter, double click, or just type", "edit a cell; Enter again keeps it, Esc leaves it as it was"],
	["Delete", "empty a cell"],
	["?", "this list"],
];

export function KeysHelp({ onClose }: { onClose: () => void }) {
	return (
		<Modal title="Keys" open onClose={onClose}>
			<dl className="grid grid-cols-[auto_1fr] gap-x-5 gap-y-2">
				{keys.map(([key, what]) => (
					<div key={key} className="contents">
						<dt className="font-mono">{key}</dt>
						<dd>{what}</dd>
					</div>
				))}
			</dl>
		</Modal>
	);
}
