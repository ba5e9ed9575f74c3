/** An empty Hewel: the first workshop and its first engineer. */
import { useQueryClient } from "@tanstack/react-query";
import { useState } from "react";

import { api } from "../../api/client";
import { useSend } from "../../api/queries";
import { Button, Input, Trouble } from "../../ui/controls";
import { Door } from "./SignIn";

const FIELDS = [
  ["code", "Code, shown where Hewel was started", "off", "text"],
  ["workshop", "Name of the workshop", "organization", "text"],
  ["name", "Your name", "name", "text"],
  ["username", "Name to sign in with", "username", "text"],
  ["password", "Password, 10 characters or more", "new-password", "password"],
] as const;
type Field = (typeof FIELDS)[number][0];

export function First() {
  const client = useQueryClient();
  const { send, busy, trouble } = useSend();
  const [typed, setTyped] = useState<Record<Field, string>>({
    code: "",
    workshop: "",
    name: "",
    username: "",
    password: "",
  });
  return (
    <Door
      words="There is no workshop yet. Begin one: you become its first engineer, and invite the others."
      onSend={() =>
        void send(() => api.beginFirst(typed)).then((session) => {
          if (session) client.setQueryData(["session"], session);
        })
      }
    >
      {FIELDS.map(([field, label, complete, type]) => (
        <Input
          key={field}
          label={label}
          type={type}
          autoComplete={complete}
          autoFocus={field === "code"}
          required
          value={typed[field]}
          onChange={(e) => setTyped({ ...typed, [field]: e.target.value })}
        />
      ))}
      {trouble && <Trouble message={trouble.message} hint={trouble.hint} />}
      <Button type="submit" disabled={busy}>
        Begin the workshop
      </Button>
    </Door>
  );
}
