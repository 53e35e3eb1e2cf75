import { useQueryClient } from "@tanstack/react-query";
import { Popover } from "radix-ui";
import { type ReactNode, useState } from "react";
import type { Revised } from "../api";
import { type AskedOf, getSetting, SettingForm, settingKey } from "./SettingForm";

interface SettingPopoverProps {
	app: string;
	asked: AskedOf;
	label: string;
	children: ReactNode;
	onDone?: (made?: Revised) => void;
}

/** A setting that opens beside what tells it. It is fetched when one comes near. */
export function SettingPopover({ app, asked, label, children, onDone }: SettingPopoverProps) {
	const [open, setOpen] = useState(false);
	const client = useQueryClient();
	const near = () =>
		void client.prefetchQuery({
			queryKey: settingKey(app, asked),
			queryFn: () => getSetting(app, asked),
			staleTime: 5_000,
		});
	return (
		<Popover.Root open={open} onOpenChange={setOpen}>
			<Popover.Trigger asChild onPointerEnter={near} onFocus={near}>
				{children}
			</Popover.Trigger>
			<Popover.Portal>
				<Popover.Content className="pop" align="start" sideOffset={4} collisionPadding={12} aria-label={label}>
					<SettingForm
						app={app}
						asked={asked}
						onDone={(made) => {
							setOpen(false);
							onDone?.(made);
						}}
					/>
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	);
}
