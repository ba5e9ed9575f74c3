/** Where an invitation leads: a name, a password, and in. */
import { type QueryClient, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { type Session, api } from "../../api/client";
import { useSend } from "../../api/queries";
import { Button, Input, PasswordInput, Trouble } from "../../ui/controls";
import { Door } from "./SignIn";

export function Join({ token }: { token: string }) {
  const client = useQueryClient();
  const welcome = useQuery({ queryKey: ["invitation", token], queryFn: () => api.invitation(token), retry: false });
  const [name, setName] = useState<string>();
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const { send, busy, trouble } = useSend();
  if (welcome.isPending) return <p className="p-5 text-second">Opening the invitation …</p>;
  if (welcome.error)
    return (
      <main className="mx-auto mt-40 w-96">
        <Trouble message={welcome.error.message} hint="Ask whoever sent it for a new link." />
        <p className="mt-3">
          <a href="/" className="underline">
            To the sign-in
          </a>
        </p>
      </main>
    );
  const { kind, workshop, role, by, whom } = welcome.data;
  if (kind === "password") return <NewPassword token={token} whom={whom} by={by} />;
  const join = () => api.join(token, username, name ?? whom, password);
  return (
    <Door
      words={`${by} invites you to ${workshop} as ${role === "engineer" ? "an engineer" : `a ${role}`}.`}
      onSend={() =>
        void send(join).then((session) => {
          if (session) enter(client, session);
        })
      }
    >
      <Input
        label="Your name"
        autoComplete="name"
        required
        value={name ?? whom}
        onChange={(e) => setName(e.target.value)}
      />
      <Input
        label="Name to sign in with"
        autoComplete="username"
        required
        value={username}
        onChange={(e) => setUsername(e.target.value)}
      />
      <PasswordInput label="Password, 10 characters or more" fresh value={password} onValue={setPassword} />
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      <Button type="submit" disabled={busy}>
        Join
      </Button>
    </Door>
  );
}

/** Goes on to the parts, signed in. */
function enter(client: QueryClient, session: Session) {
  client.setQueryData(["session"], session);
  window.history.replaceState(null, "", "/");
}

/** Where a link for a lost password leads. */
function NewPassword({ token, whom, by }: { token: string; whom: string; by: string }) {
  const client = useQueryClient();
  const [password, setPassword] = useState("");
  const { send, busy, trouble } = useSend();
  return (
    <Door
      words={`${by} made this link for ${whom}: it sets a new password, once.`}
      onSend={() =>
        void send(() => api.resetPassword(token, password)).then((session) => {
          if (session) enter(client, session);
        })
      }
    >
      <PasswordInput
        label="New password, 10 characters or more"
        fresh
        autoFocus
        value={password}
        onValue={setPassword}
      />
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      <Button type="submit" disabled={busy}>
        Set password
      </Button>
    </Door>
  );
}
