/** What a preload meets: the torque's factor and scatter, relaxation, settling, the coldest in use. */
import type { Job, Sections } from "../../api/client";
import type { Hardware } from "../../api/hardware";
import { useDraft } from "../../ui/draft";

interface Props {
  hardware: Hardware;
  onWrite: ((change: (job: Job) => Sections) => Promise<boolean>) | null;
}

const FIELDS = [
  ["nut_factor", "torque factor K", "0.12 oiled to 0.35 dry"],
  ["scatter", "scatter of the torque", "0.3 by a wrench"],
  ["relaxation", "stiffness kept by the plastic", "0.5 after a month"],
  ["settles_um", "seats settle, µm", "10 on printed faces"],
] as const;

export function Meets({ hardware, onWrite }: Props) {
  return (
    <div className="grid grid-cols-2 gap-x-2 gap-y-1.5 pt-2" data-testid="meets">
      {FIELDS.map(([key, label, about]) => (
        <Field
          key={key}
          label={label}
          about={about}
          now={String(hardware[key])}
          onType={
            onWrite &&
            ((text) => {
              const value = Number(text.replace(",", "."));
              if (Number.isFinite(value)) void onWrite((job) => ({ hardware: { ...job.hardware, [key]: value } }));
            })
          }
        />
      ))}
      <Field
        label="coldest in use"
        about="23 °C"
        now={hardware.cold?.typed ?? ""}
        onType={
          onWrite &&
          ((text) =>
            void onWrite((job) => ({ hardware: { ...job.hardware, cold: text.trim() ? text : null } as never })))
        }
      />
    </div>
  );
}

interface FieldProps {
  label: string;
  about: string;
  now: string;
  onType: ((text: string) => void) | null;
}

function Field({ label, about, now, onType }: FieldProps) {
  const [text, setText] = useDraft(now);
  return (
    <label className="block" title={about}>
      <span className="block text-second">{label}</span>
      <input
        aria-label={label}
        className="figure w-full border border-bark bg-raised px-2 py-[3px] disabled:text-second"
        value={text}
        placeholder={about}
        disabled={!onType}
        onChange={(e) => setText(e.target.value)}
        onBlur={() => text.trim() !== now && onType?.(text.trim())}
        onKeyDown={(e) => e.key === "Enter" && e.currentTarget.blur()}
      />
    </label>
  );
}
