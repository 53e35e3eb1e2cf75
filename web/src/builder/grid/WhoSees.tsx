import { say } from "../../shared/words";
import { type RoleSees, useOfApp, type WhoSees as Who } from "../api";
import { ErrorNote, Loading } from "../ui";

/** Role by role, who sees a record, by which rule, and the values that the rule looks at. */
export function WhoSees({ app, table, record }: { app: string; table: string; record: string }) {
	const who = useOfApp<Who>(app, `/tables/${table}/records/${record}/who`);
	if (who.isError) return <ErrorNote error={who.error} />;
	if (!who.data) return <Loading />;
	return (
		<div className="grid gap-4">
			<p className="text-soft">By the rules in the draft. You, the founder, can see every record.</p>
			<ul className="grid gap-3">
				{who.data.roles.map((r) => (
					<li key={r.role} className="border border-line rounded-md p-3 grid gap-1">
						<p>
							<strong>{r.name}</strong> {verdict(r)}
						</p>
						{r.reach === "where" && (
							<>
								<p className="text-soft">
									Their rule: they can see records where {r.rule}.
									{r.values.length > 0 &&
										say(" Here, {values}.", { values: r.values.map((v) => `${v.name} is ${v.value || "empty"}`) })}
								</p>
								{r.people.length > 0 && r.role !== "visitor" && (
									<p className="break-words">
										{r.people.slice(0, 12).join(", ")}
										{r.people.length > 12 && ` and ${r.people.length - 12} more`}
									</p>
								)}
								{r.more && <p className="text-soft">We checked the first {r.tried}.</p>}
							</>
						)}
					</li>
				))}
			</ul>
		</div>
	);
}

function verdict(r: RoleSees): string {
	if (r.reach === "all") return "all can see it: their rule covers every record.";
	if (r.reach === "none") return "can’t see it: no rule covers this table.";
	if (r.role === "visitor") return r.people.length > 0 ? "can see it." : "can’t see it.";
	if (r.people.length === 0) return say("none of {n} can see it.", { n: r.tried });
	return say(r.people.length === r.tried ? "all {n} can see it." : "{some} of {n} can see it.", {
		n: r.tried,
		some: r.people.length,
	});
}
