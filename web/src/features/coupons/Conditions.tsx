/** How a coupon was printed: what its numbers belong to. */
import type { CouponIn, CouponSheet } from "../../api/coupons";
import { typedNumber } from "../../domain/figures";
import { Text } from "../../ui/Text";
import { Tick } from "../../ui/controls";

interface Props {
  sheet: CouponSheet;
  /** Null for those who may not. */
  onChange: ((change: Partial<CouponIn>) => void) | null;
}

export function Conditions({ sheet, onChange }: Props) {
  const number = (text: string) => (text.trim() === "" ? null : typedNumber(text));
  const field = (label: string, now: string, put: (text: string) => Partial<CouponIn>, type = "text") => (
    <Text label={label} now={now} type={type} onWrite={onChange && ((text) => onChange(put(text)))} />
  );
  return (
    <div className="grid grid-cols-[1.5fr_1fr_0.8fr_0.8fr_1fr_1fr] gap-x-2 gap-y-1 border-t border-rule px-4 py-2">
      {field("printed on", sheet.printed ?? "", (v) => ({ printed: v || null }), "date")}
      {field("by", sheet.operator ?? "", (v) => ({ operator: v }))}
      {field("room, °C", String(sheet.room_c ?? ""), (v) => ({ room_c: number(v) }))}
      {field("layer, mm", String(sheet.layer ?? ""), (v) => ({ layer: number(v) }))}
      {field("filament lot", sheet.lot ?? "", (v) => ({ lot: v }))}
      {field("dried", sheet.dried ?? "", (v) => ({ dried: v }))}
      <Tick
        className="col-span-6 gap-2"
        ticked={sheet.compensated ?? false}
        onTick={(compensated) => onChange?.({ compensated })}
      >
        printed with compensation on: its numbers are what is left of it, and stay apart
      </Tick>
    </div>
  );
}
