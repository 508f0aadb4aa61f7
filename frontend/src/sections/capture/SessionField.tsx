import { useQuery } from "@tanstack/react-query";
import { answer, api } from "../../api/client";
import { Field, FIELD } from "../../parts/controls";

/** Which session takes go into; the newest where none is chosen. */
export function SessionField({ value, onChange }: { value: string; onChange: (session: string) => void }) {
  const sessions = useQuery({ queryKey: ["sessions"], queryFn: () => answer(api.GET("/api/sessions")) });
  return (
    <Field label="Session">
      <select className={FIELD} value={value} onChange={(e) => onChange(e.target.value)}>
        <option value="">{sessions.data?.sessions[0]?.name ?? "a first one, begun for it"}</option>
        {sessions.data?.sessions.slice(1).map((each) => (
          <option key={each.id} value={each.id}>
            {each.name}
          </option>
        ))}
      </select>
    </Field>
  );
}
