import { valueText } from "../../../shared/fields/values";
import type { BlockOf, FormState } from "../../place";

/** The value of a result as it is read; "" for none. */
export function resultText(block: BlockOf<"result">, part: FormState["parts"][string] | undefined): string {
	const { id } = block.column;
	return valueText({ [id]: part?.result?.value, [`${id}~`]: part?.result?.label }, block.column);
}
