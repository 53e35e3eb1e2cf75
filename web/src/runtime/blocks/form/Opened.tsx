import { X } from "lucide-react";
import { Dialog } from "radix-ui";
import { type ReactNode, useState } from "react";
import type { Done, Form } from "../../place";
import { AfterForm } from "./after";

/** A form that a button opens. What was answered in it is there again when it is closed and opened. */
export function Opened({ form, children }: { form: Form; children: ReactNode }) {
	const [open, setOpen] = useState(false);
	const [thanks, setThanks] = useState("");
	const done = (got: Done) => {
		setOpen(false);
		setThanks(got.thanks);
		return !got.go;
	};
	return (
		<div className="form-opener">
			<button
				type="button"
				className="button button-main"
				onClick={() => {
					setThanks("");
					setOpen(true);
				}}
			>
				{form.opens}
			</button>
			<p role="status">{thanks}</p>
			<Dialog.Root open={open} onOpenChange={setOpen}>
				<Dialog.Portal>
					<Dialog.Overlay className="beside-shade" />
					<Dialog.Content className="beside beside-dialog form-dialog" aria-describedby={undefined}>
						<header className="beside-head">
							<Dialog.Title className="font-semibold">{form.opens}</Dialog.Title>
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
