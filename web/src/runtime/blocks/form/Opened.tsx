import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import { type ReactNode, useState } from "react";
import type { Done } from "../../place";
import { AfterForm } from "./after";

interface OpenedProps {
	text: string;
	button?: string;
	/** Says the thanks elsewhere than beside the button. */
	say?: (thanks: string) => void;
	children: ReactNode;
}

/** A form that a button opens. What was answered in it is there again when it is closed and opened. */
export function Opened({ text, button = "button button-main", say, children }: OpenedProps) {
	const [open, setOpen] = useState(false);
	const [thanks, setThanks] = useState("");
	const tell = say ?? setThanks;
	const done = (got: Done) => {
		setOpen(false);
		tell(got.thanks);
		return !got.go;
	};
	return (
		<div className="form-opener">
			<button
				type="button"
				className={button}
				onClick={() => {
					tell("");
					setOpen(true);
				}}
			>
				{text}
			</button>
			{!say && <p role="status">{thanks}</p>}
			<Dialog.Root open={open} onOpenChange={setOpen}>
				<Dialog.Portal>
					<Dialog.Overlay className="beside-shade" />
					<Dialog.Content className="beside beside-dialog form-dialog" aria-describedby={undefined}>
						<header className="beside-head">
							<Dialog.Title className="font-semibold">{text}</Dialog.Title>
							<span className="flex-1" />
							<Dialog.Close className="icon-button" aria-label="Close">
								<X size={18} aria-hidden />
							</Dialog.Close>
						</header>
						<div className="beside-body">
							<AfterForm value={done}>{children}</AfterForm>
						</div>
					</Dialog.Content>
				</Dialog.Portal>
			</Dialog.Root>
		</div>
	);
}
