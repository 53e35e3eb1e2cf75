import type { BlockProps } from ".";

export function Text({ block }: BlockProps<"text">) {
	return <p className="text-block">{block.text}</p>;
}
