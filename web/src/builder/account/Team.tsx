import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { request } from "../../shared/api/client";
import { sizeText } from "../../shared/fields/files";
import { type Team as TeamData, useDo, useSession, type Workspace } from "../api";
import { Confirm, ErrorNote, Loading, moment } from "../ui";
import { Card, Outside, Trouble } from "./Account";
import { Input } from "./SignIn";

const url = (w: string, rest = "") => `/api/workspaces/${w}${rest}`;

/** The workspaces of a builder, with who builds in each. */
export function Team() {
	const all = useQuery({ queryKey: ["workspaces"], queryFn: () => request<Workspace[]>("GET", "/api/workspaces") });
	const [chosen, setChosen] = useState("");
	if (all.isError) return <ErrorNote error={all.error} retry={() => void all.refetch()} />;
	if (!all.data) return <Loading />;
	const now = all.data.find((w) => w.id === chosen) ?? all.data[0];
	return (
		<Outside
			title="Team"
			text="Owners can do everything. Editors build and publish. Viewers look. Only owners can delete apps and read emails that apps send."
		>
			<div className="flex flex-wrap gap-2 items-center">
				{all.data.map((w) => (
					<button
						key={w.id}
						type="button"
						className={`btn ${w.id === now?.id ? "border-(--pine) font-semibold" : ""}`}
						aria-pressed={w.id === now?.id}
						onClick={() => setChosen(w.id)}
					>
						{w.name}
					</button>
				))}
				<AddWorkspace onMade={setChosen} />
			</div>
			{now && <WorkspaceView key={now.id} id={now.id} />}
		</Outside>
	);
}

function AddWorkspace({ onMade }: { onMade: (id: string) => void }) {
	const [name, setName] = useState<string | null>(null);
	const make = useDo<string>(
		["workspaces"],
		async (n) => onMade((await request<Workspace>("POST", "/api/workspaces", { name: n })).id),
		() => setName(null),
	);
	if (name === null)
		return (
			<button type="button" className="link-button px-2" onClick={() => setName("")}>
				Create a workspace
			</button>
		);
	const submit = (e: FormEvent) => {
		e.preventDefault();
		make.mutate(name);
	};
	return (
		<form className="flex gap-2 items-center" onSubmit={submit}>
			<input
				className="input !w-56"
				aria-label="Name of the workspace"
				placeholder="Name of the workspace"
				value={name}
				onChange={(e) => setName(e.target.value)}
			/>
			<button type="submit" className="btn btn-main">
				Create workspace
			</button>
			<Trouble error={make.error} />
		</form>
	);
}

function WorkspaceView({ id }: { id: string }) {
	const team = useQuery({ queryKey: ["workspaces", id], queryFn: () => request<TeamData>("GET", url(id)) });
	if (team.isError) return <ErrorNote error={team.error} retry={() => void team.refetch()} />;
	if (!team.data) return <Loading />;
	const t = team.data;
	return (
		<>
			<Members team={t} />
			{t.role === "owner" && <Invite team={t} />}
			<Card title="What is used">
				<Used what="Apps" has={t.usage.apps} most={t.usage.mostApps} shown={String} />
				<Used what="Files" has={t.usage.bytes} most={t.usage.mostBytes} shown={sizeText} />
			</Card>
			<Card title="Activity">
				{t.log.length === 0 && <p className="text-soft">No activity yet.</p>}
				<ul className="grid gap-1">
					{t.log.map((l) => (
						<li key={l.id}>
							<span className="text-soft">{moment(l.at)}</span> {l.by}: {l.what}
						</li>
					))}
				</ul>
			</Card>
		</>
	);
}

interface UsedProps {
	what: string;
	has: number;
	/** 0 where there is no bound. */
	most: number;
	shown: (n: number) => string;
}

/** How much is used of what a workspace can have. */
function Used({ what, has, most, shown }: UsedProps) {
	return (
		<div className="grid grid-cols-[5rem_1fr_12rem] items-center gap-3">
			<span className="font-medium">{what}</span>
			{most > 0 ? (
				<meter className="used" min={0} max={most} high={most * 0.9} optimum={0} value={has} aria-label={what} />
			) : (
				<span />
			)}
			<span className="text-soft">{most > 0 ? `${shown(has)} of ${shown(most)}` : shown(has)}</span>
		</div>
	);
}

function Members({ team }: { team: TeamData }) {
	const session = useSession();
	const [leaving, setLeaving] = useState<TeamData["members"][number] | null>(null);
	const set = useDo<{ id: string; role: string }>(["workspaces"], (v) =>
		v.role
			? request("PATCH", url(team.id, `/members/${v.id}`), { role: v.role })
			: request("DELETE", url(team.id, `/members/${v.id}`)),
	);
	return (
		<Card title={`Who builds in ${team.name}`}>
			<Trouble error={set.error} />
			<ul className="grid gap-2">
				{team.members.map((m) => (
					<li key={m.id} className="flex items-center gap-3">
						<span className="flex-1 min-w-0">
							<span className="font-medium">{m.name}</span>
							{m.email === session.data?.email && <span className="text-soft"> (you)</span>}
							<span className="block text-soft truncate">{m.email}</span>
						</span>
						{team.role === "owner" ? (
							<>
								<select
									className="input !w-28"
									aria-label={`Role of ${m.name}`}
									value={m.role}
									onChange={(e) => set.mutate({ id: m.id, role: e.target.value })}
								>
									<option value="owner">owner</option>
									<option value="editor">editor</option>
									<option value="viewer">viewer</option>
								</select>
								<button type="button" className="btn" onClick={() => setLeaving(m)}>
									Remove
								</button>
							</>
						) : (
							<>
								<span>{m.role}</span>
								{m.email === session.data?.email && (
									<button type="button" className="btn" onClick={() => setLeaving(m)}>
										Leave
									</button>
								)}
							</>
						)}
					</li>
				))}
			</ul>
			{leaving && (
				<Confirm
					text={`${leaving.name} will lose access to the apps in ${team.name}.`}
					label="Remove"
					onNo={() => setLeaving(null)}
					onYes={() => {
						set.mutate({ id: leaving.id, role: "" });
						setLeaving(null);
					}}
				/>
			)}
		</Card>
	);
}

function Invite({ team }: { team: TeamData }) {
	const [email, setEmail] = useState("");
	const [role, setRole] = useState("editor");
	const invite = useDo<void>(
		["workspaces"],
		() => request("POST", url(team.id, "/invitations"), { email, role }),
		() => setEmail(""),
	);
	const drop = useDo<string>(["workspaces"], (id) => request("DELETE", url(team.id, `/invitations/${id}`)));
	const submit = (e: FormEvent) => {
		e.preventDefault();
		invite.mutate();
	};
	return (
		<Card title="Invite someone">
			<Trouble error={invite.error ?? drop.error} />
			<form className="flex gap-3 items-end flex-wrap" onSubmit={submit}>
				<Input label="Email" type="email" value={email} onChange={setEmail} />
				<label className="grid gap-1">
					<span className="font-medium">As</span>
					<select className="input" value={role} onChange={(e) => setRole(e.target.value)}>
						<option value="owner">owner</option>
						<option value="editor">editor</option>
						<option value="viewer">viewer</option>
					</select>
				</label>
				<button type="submit" className="btn btn-main" disabled={invite.isPending}>
					Invite
				</button>
			</form>
			<ul className="grid gap-1">
				{team.invited.map((i) => (
					<li key={i.id} className="flex gap-3 items-center">
						<span className="flex-1">
							{i.email} <span className="text-soft">until {moment(i.until)}</span>
						</span>
						<button type="button" className="btn" onClick={() => drop.mutate(i.id)}>
							Cancel invitation
						</button>
					</li>
				))}
			</ul>
		</Card>
	);
}
