/** A part that is bought and meets this one: its sizes as they are typed, and which of its faces meets something. */
import type { BoughtKind, Mate } from "../../api/fit";
import { Text } from "../../ui/Text";
import { Button, Select } from "../../ui/controls";

interface Props {
  mate: Mate;
  kind: BoughtKind;
  /** Null for those who may not. */
  onChange: ((change: Partial<NonNullable<Mate["bought"]>>) => void) | null;
  onFace: ((face: string) => void) | null;
}

export function Bought({ mate, kind, onChange, onFace }: Props) {
  const { bought } = mate;
  if (!bought) return null;
  const put = (change: Record<string, unknown>) => onChange?.(change as Partial<NonNullable<Mate["bought"]>>);
  return (
    <>
      <div className="grid grid-cols-5 gap-x-2">
        {kind.sizes.length > 0 && (
          <Select
            label="thread"
            value={bought.size || (kind.sizes[0] ?? "")}
            options={kind.sizes.map((s) => [s, s] as const)}
            onPick={(size) => put({ size })}
            disabled={!onChange}
          />
        )}
        {kind.numbers.map((n) => (
          <Text
            key={n.name}
            label={n.words}
            hint={`${n.usual} mm`}
            now={bought.numbers?.[n.name]?.typed ?? ""}
            onWrite={
              onChange &&
              ((v) => {
                const rest = Object.entries(bought.numbers ?? {}).filter(([name]) => name !== n.name);
                put({ numbers: Object.fromEntries(v ? [...rest, [n.name, v]] : rest) });
              })
            }
          />
        ))}
        {(["plus", "minus"] as const).map((end) => (
          <Text
            key={end}
            label={`⌀ ${end === "plus" ? "more" : "less"} by`}
            hint="0 mm"
            now={bought[end]?.typed ?? ""}
            onWrite={onChange && ((v) => put({ [end]: v || null }))}
          />
        ))}
      </div>
      {onFace && (
        <p className="flex flex-wrap items-center gap-1.5">
          <span className="text-second">which meets:</span>
          {kind.faces.map((face) => (
            <Button key={face} plain onClick={() => onFace(face)}>
              {face}
            </Button>
          ))}
        </p>
      )}
    </>
  );
}
