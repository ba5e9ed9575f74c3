import { useQueryClient } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";

import { api } from "../../api/client";
import { useSend } from "../../api/queries";
import { Button, Input, PasswordInput, Trouble } from "../../ui/controls";

export function SignIn() {
  const client = useQueryClient();
  const [username, setUsername] = useState("");
  const [password, setPassword] = useState("");
  const { send, busy, trouble } = useSend();
  return (
    <Door
      words="Adapting parts for batch printing: direction, overhangs, walls, strength, batch."
      onSend={() =>
        void send(() => api.signIn(username, password)).then(
          (session) => session && client.setQueryData(["session"], session),
        )
      }
    >
      <Input
        label="Name"
        autoComplete="username"
        autoFocus
        required
        value={username}
        onChange={(e) => setUsername(e.target.value)}
      />
      <PasswordInput label="Password" value={password} onValue={setPassword} />
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      <Button type="submit" disabled={busy}>
        Sign in
      </Button>
    </Door>
  );
}

/** The page before anybody is signed in. */
export function Door({ words, onSend, children }: { words: ReactNode; onSend: () => void; children: ReactNode }) {
  return (
    <main className="grid h-full place-items-center">
      <form
        className="w-80 space-y-4"
        onSubmit={(e) => {
          e.preventDefault();
          onSend();
        }}
      >
        <header>
          <h1 className="text-3xl font-bold [font-stretch:115%]">Hewel</h1>
          <div className="mt-1 h-1 w-12 bg-crown" />
          <p className="mt-3 text-second">{words}</p>
        </header>
        {children}
      </form>
    </main>
  );
}
