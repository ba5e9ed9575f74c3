/** Where an invitation leads: a name, a password, and in. */
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../../api/client";
import { useSend } from "../../api/queries";
import { Button, Input, Trouble } from "../../ui/controls";
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
  const { workshop, role, by, whom } = welcome.data;
  const join = () => api.join(token, username, name ?? whom, password);
  return (
    <Door
      words={`${by} invites you to ${workshop} as ${role === "engineer" ? "an engineer" : `a ${role}`}.`}
      onSend={() =>
        void send(join).then((session) => {
          if (!session) return;
          client.setQueryData(["session"], session);
          window.history.replaceState(null, "", "/");
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
      <Input
        label="Password, 10 characters or more"
        type="password"
        autoComplete="new-password"
        required
        value={password}
        onChange={(e) => setPassword(e.target.value)}
      />
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      <Button type="submit" disabled={busy}>
        Join
      </Button>
    </Door>
  );
}
