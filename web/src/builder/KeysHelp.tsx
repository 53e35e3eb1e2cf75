import { Modal } from "./ui";

const keys = [
	["Alt+1 … Alt+4", "go to Data, People, Pages or Publish"],
	["Alt+P", "choose who the app is seen as"],
	["Ctrl+Z", "undo any change to the app"],
	["Ctrl+Shift+Z", "redo the change"],
	["Arrows, Tab", "move between the cells of the grid"],
	["Enter, double click, or just type", "edit a cell; Enter saves it, Esc cancels"],
	["Delete", "clear a cell"],
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
