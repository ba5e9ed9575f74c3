/** What is asked of an arm: by how much it is bent, and sizes in place of those that were measured. */
import type { FlexRow as Row, Flexes } from "../../api/fit";
import { figure } from "../../domain/figures";
import { Text } from "../../ui/Text";
import { Tick } from "../../ui/controls";

interface Props {
  bent: Flexes[number];
  told: Row["flex"];
  /** Null for those who may not. */
  onChange: ((change: Partial<Record<keyof Flexes[number], unknown>>) => void) | null;
}

export function Asked({ bent, told, onChange }: Props) {
  return (
    <>
      <div className="grid grid-cols-4 gap-x-2 gap-y-1.5">
        <Text
          label="bent by"
          hint={told && told.catch_mm > 0.05 ? `its catch, ${figure(told.catch_mm, 2)} mm` : "1.5 mm"}
          now={bent.deflection?.typed ?? ""}
          onWrite={onChange && ((v) => onChange({ deflection: v || null }))}
        />
        {(["length", "thickness", "width"] as const).map((key) => (
          <Text
            key={key}
            label={key}
            hint={told ? `${figure(told[`${key}_mm`], 2)} mm` : "measured"}
            now={bent[key]?.typed ?? ""}
            onWrite={onChange && ((v) => onChange({ [key]: v || null }))}
          />
        ))}
        <Text
          label="root radius"
          hint={told ? `${figure(told.radius_mm, 2)} mm` : "measured"}
          now={bent.radius?.typed ?? ""}
          onWrite={onChange && ((v) => onChange({ radius: v || null }))}
        />
        <Text
          label="slope going in, °"
          hint="30"
          now={String(bent.angle_in)}
          onWrite={onChange && ((v) => onChange({ angle_in: v || 30 }))}
        />
        <Text
          label="coming out, °"
          hint="45"
          now={String(bent.angle_out)}
          onWrite={onChange && ((v) => onChange({ angle_out: v || 45 }))}
        />
        <Text
          label="friction"
          hint="0.4"
          now={String(bent.friction)}
          onWrite={onChange && ((v) => onChange({ friction: v || 0.4 }))}
        />
      </div>
      <Tick ticked={bent.repeated} onTick={(repeated) => onChange?.({ repeated })}>
        bent again and again
      </Tick>
    </>
  );
}
