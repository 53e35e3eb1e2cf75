import { RefreshCw } from "lucide-react";

export type AppPlace = "draft" | "live";

interface PlacePickProps {
	place: AppPlace;
	onPlace: (to: AppPlace) => void;
	onAgain: () => void;
}

/** Chooses whether what is listed is of the live app or of the draft, and lists it anew. */
export function PlacePick({ place, onPlace, onAgain }: PlacePickProps) {
	return (
		<>
			<select
				className="input !w-auto"
				aria-label="Where"
				value={place}
				onChange={(e) => onPlace(e.target.value === "live" ? "live" : "draft")}
			>
				<option value="live">in the live app</option>
				<option value="draft">in the draft</option>
			</select>
			<button type="button" className="btn" onClick={onAgain}>
				<RefreshCw size={14} aria-hidden /> Check again
			</button>
		</>
	);
}
