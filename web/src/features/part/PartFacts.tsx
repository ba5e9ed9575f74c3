/** The first page of a part: the answer of the first minute, one step to loads; below it what came in: the facts, what was mended, bores and flats shown on the part when pointed at. */
import { Link } from "@tanstack/react-router";
import { type KeyboardEvent, useMemo, useState } from "react";

import { ApiProblem, type Part, type Pointed, api } from "../../api/client";
import { useBeside, useJobWriter, useMayWrite, usePaint, useRefresh, useSend, useShape } from "../../api/queries";
import { figure, measure, moment, size } from "../../domain/figures";
import { MOSS, OCHRE } from "../../domain/palette";
import { type Vec3, directionWords, toVec3 } from "../../domain/vectors";
import { Specimen } from "../../scene/Specimen";
import { faceSteps, facesOf, nextFace, placeOf } from "../../scene/faces";
import { decodeCorners, decodeShape, normalOf } from "../../scene/shape";
import type { Place } from "../../scene/view";
import { ExactToo } from "../../ui/ExactToo";
import { useInAddress } from "../../ui/address";
import { type Command, useCommands } from "../../ui/commands";
import { Button, Heading, Legend, Trouble } from "../../ui/controls";
import { Beside, Other } from "./Beside";
import { FirstMinute } from "./FirstMinute";
import { OneStep, type Pointing, holdOn } from "./OneStep";
import { Scaled } from "./Scaled";
import { MeasureLine, Measured, SectionTool, type Sectioned, type Spot, planeOf } from "./Tools";

const ALONG: Record<string, string> = { "+x": "x", "−x": "x", "+y": "y", "−y": "y", "+z": "z", "−z": "z" };

function axisWords(axis: readonly number[]): string {
  const words = directionWords(toVec3(axis));
  const first = words.split(" ")[0] ?? "";
  return words.endsWith("up")
    ? (ALONG[first] ?? first)
    : toVec3(axis)
        .map((v) => figure(v, 2))
        .join(" ");
}

const POINTING: Readonly<Record<Pointing, string>> = {
  hold: "Point at a face that holds the part, here or in the lists · Esc leaves",
  load: "Point at a face that is loaded, here or in the lists · Esc leaves",
  measure: "Point at a place, and at a second one · Esc leaves",
};

const BESIDE = [
  ["the other has more", MOSS],
  ["the other lacks", OCHRE],
] as const;

const MoreLoads = ({ part }: { part: Part }) => (
  <Link
    to="/parts/$partId/requirements"
    params={{ partId: part.id }}
    search={{ tab: "loads" }}
    className="text-second underline hover:text-ink"
  >
    more of it
  </Link>
);

export function PartFacts({ part }: { part: Part }) {
  const data = useShape(part.id, part.view);
  const shape = useMemo(() => (data.data ? decodeShape(data.data) : null), [data.data]);
  const faces = useMemo(() => (shape ? facesOf(shape) : []), [shape]);
  const [onDesk, setOnDesk] = useState<number | null>(null);
  const [spots, setSpots] = useState<readonly Spot[]>([]);
  const [cut, setCut] = useState<Sectioned | null>(null);
  const plane = useMemo(() => planeOf(cut), [cut]);
  const [fly, setFly] = useState<Place | null>(null);
  const [pointing, setPointing] = useState<Pointing | null>(null);
  const [hot, setHot] = useState(0);
  const [face, setFace] = useState<Pointed | null>(null);
  const { write, trouble: unwritten } = useJobWriter(part);
  const { send, trouble: unfound } = useSend();
  const copying = useSend();
  const trouble = copying.trouble ?? unfound ?? unwritten;
  const refresh = useRefresh();
  const takeJob = async (of: string | null) => {
    if (of && (await copying.send(() => api.copyJob(part.id, of, part.version)))) await refresh(part);
  };
  const paint = usePaint(part).data;
  const regions = part.job.regions.rows;
  const tints = useMemo(
    () => (paint && regions.length > 0 ? { regions: paint, colours: regions.map((r) => r.colour) } : undefined),
    [paint, regions],
  );
  const take = async (facet: number, point: Vec3) => {
    setOnDesk(facet);
    if (pointing === "measure" && shape) {
      const spot = { facet, point, normal: normalOf(shape, facet) };
      setSpots((now) => (now.length === 2 ? [spot] : [...now, spot]));
      return;
    }
    const found = await send(() => api.point(part.id, facet, false));
    if (!found) return;
    if (pointing === "load") {
      setFace(found);
      return;
    }
    const loaded = part.job.loads.cases.length > 0;
    if (await write(holdOn(found))) setPointing(loaded ? null : "load");
  };
  const point = (to: Pointing | null) => {
    if (to && !shape) return; // nothing can be pointed at before the part is drawn
    setPointing(to);
    setHot(0);
    setOnDesk(null);
    setSpots([]);
  };
  const commands = useMemo<Command[]>(() => {
    const steps = faceSteps((by, fits) => {
      const here = shape && onDesk !== null ? (shape.face[onDesk] ?? null) : null;
      const next = nextFace(faces, here, by, fits);
      if (!next) return;
      setOnDesk(next.facet);
      setFly(placeOf(next));
    });
    const spot = faces.find((f) => f.facet === onDesk);
    const out: Command[] = [
      { name: "Fix a face", keys: "i", run: () => point("hold") },
      { name: "Load a face", keys: "a", run: () => point("load") },
      { name: "Measure between two places", keys: "n", run: () => point("measure") },
      { name: "Leave what was being pointed at", keys: "Escape", run: () => point(null) },
    ];
    if (pointing) out.push(...steps);
    if (pointing && spot)
      out.push({ name: "Take this face", keys: "Enter", run: () => void take(spot.facet, spot.point) });
    return out;
    // eslint-disable-next-line react-hooks/exhaustive-deps -- what take and point do follows from what stands here
  }, [shape, faces, onDesk, pointing]);
  useCommands(commands);
  const [other, setOther] = useInAddress("beside");
  const beside = useBeside(part, other);
  const told = other ? (beside.data ?? null) : null;
  const ghosts = useMemo(
    () =>
      told?.more || told?.less
        ? [
            { corners: decodeCorners(told.more), colour: MOSS },
            { corners: decodeCorners(told.less), colour: OCHRE },
          ].filter((g) => g.corners.length > 0)
        : undefined,
    [told],
  );
  const up = useMemo(() => toVec3(part.choice?.up ?? [0, 0, 1]), [part.choice?.up]);
  const may = useMayWrite(part);
  const f = part.facts;
  const low = f.bbox_mm[0] ?? [];
  const high = f.bbox_mm[1] ?? [];
  const rows: [string, string, string][] = [
    ["box", size(high.map((v, i) => v - (low[i] ?? 0))), "mm"],
    ["volume", f.volume_mm3 === null ? "open surface" : measure(f.volume_mm3), f.volume_mm3 === null ? "" : "mm³"],
    ["surface", measure(f.area_mm2), "mm²"],
    ["centre of mass", f.centre_of_mass_mm.map((v) => figure(v, 2)).join("  "), "mm"],
    ["bodies", String(f.bodies), ""],
    ["triangles", figure(f.triangles, 0), ""],
  ];
  /** A row of the lists stands for its face: it is taken where one is asked for, and looked at otherwise. */
  const pickRow = (mark: number) => {
    const spot = faces.find((s) => s.feature === mark);
    if (!spot) return;
    if (pointing && pointing !== "measure") void take(spot.facet, spot.point);
    else setFly(placeOf(spot));
  };
  const light = (mark: number) => ({
    onClick: () => pickRow(mark),
    onKeyDown: (e: KeyboardEvent) => {
      if (e.key !== "Enter") return;
      e.stopPropagation(); // or the face that the keys went to last is taken too
      pickRow(mark);
    },
    onPointerEnter: () => setHot(mark),
    onPointerLeave: () => setHot(0),
    onFocus: () => setHot(mark),
    onBlur: () => setHot(0),
    tabIndex: 0,
    "data-hot": hot === mark || undefined,
    className: `cursor-pointer border-b border-rule ${hot === mark ? "bg-lit" : "hover:bg-raised"}`,
  });
  return (
    <div className="stage-columns grid h-full min-h-0 grid-cols-[430px_minmax(0,1fr)]">
      <section className="flex min-h-0 flex-col gap-4 overflow-y-auto border-r border-ink p-4">
        {other ? (
          <Beside
            part={part}
            told={told}
            problem={
              beside.error && {
                message: beside.error.message,
                hint: beside.error instanceof ApiProblem ? beside.error.hint : "Reload the page.",
              }
            }
            onPick={setOther}
          />
        ) : (
          <div>
            <Heading aside={<Other part={part} onPick={setOther} />}>First answer</Heading>
            <FirstMinute part={part} />
          </div>
        )}
        <div>
          <Heading
            aside={
              <span className="flex items-baseline gap-3">
                {may && <Other part={part} label="Job as of" onPick={(id) => void takeJob(id)} />}
                <MoreLoads part={part} />
              </span>
            }
          >
            What it carries
          </Heading>
          {trouble && <Trouble message={trouble.message} hint={trouble.hint} clashes={trouble.clashes} />}
          <OneStep
            part={part}
            may={may}
            drawn={shape !== null}
            pointing={pointing}
            onPointing={point}
            face={face}
            onFace={setFace}
          />
        </div>
        <div>
          <Heading>What came in</Heading>
          <p className="text-second">
            {part.file_name} · {part.file_format.toUpperCase()} · one unit ={" "}
            {figure(part.scale_mm, part.scale_mm < 1 ? 3 : 1)} mm · {part.by}, {moment(part.created)}
          </p>
          {part.note && <p className="mt-2">{part.note}</p>}
        </div>
        <table className="w-full border-collapse">
          <tbody>
            {rows.map(([name, value, unit]) => (
              <tr key={name} className="border-b border-rule">
                <th className="py-1 text-left font-normal text-second">{name}</th>
                <td className="figure text-right font-semibold">{value}</td>
                <td className="figure w-12 pl-2 text-second">{unit}</td>
              </tr>
            ))}
            <tr className="border-b border-rule">
              <th className="py-1 text-left font-normal text-second">surface is</th>
              <td className="text-right font-semibold">
                {f.watertight ? "closed" : <span className="text-crown">open: no volume, no layers</span>}
              </td>
              <td />
            </tr>
          </tbody>
        </table>
        {part.exact && part.uncarried.length > 0 && <ExactToo uncarried={part.uncarried} />}
        {part.warnings.length > 0 && (
          <div className="border-l-4 border-ochre-mark bg-raised px-3 py-2">
            <p className="font-semibold text-ochre">Repaired or assumed</p>
            <ul>
              {part.warnings.map((w, i) => (
                <li key={i}>{w.message}</li>
              ))}
            </ul>
          </div>
        )}
        <div>
          <Heading>Bores</Heading>
          {f.bores === null ? (
            <p className="text-second" role="status">
              Looking for bores …
            </p>
          ) : f.bores.length === 0 ? (
            <p className="text-second">No full bore found.</p>
          ) : (
            <table className="w-full border-collapse" data-testid="bores">
              <thead>
                <tr className="narrow border-b-[1.4px] border-ink text-right text-second">
                  <th className="text-left font-normal">no.</th>
                  <th className="font-normal">diameter mm</th>
                  <th className="font-normal">depth mm</th>
                  <th className="font-normal">axis</th>
                  <th className="font-normal">ends</th>
                  <th className="font-normal">at x y z mm</th>
                </tr>
              </thead>
              <tbody>
                {f.bores.map((b, i) => (
                  <tr key={i} {...light(i + 1)}>
                    <td className="figure py-1">{i + 1}</td>
                    <td className="figure text-right font-semibold">{figure(b.diameter_mm, 2)}</td>
                    <td className="figure text-right">{figure(b.depth_mm, 2)}</td>
                    <td className="figure text-right">{axisWords(b.axis)}</td>
                    <td className="text-right">{b.through ? "through" : "blind"}</td>
                    <td className="figure text-right text-[11.5px] text-second">
                      {b.centre_mm.map((v) => figure(v, 1)).join("  ")}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </div>
        <div>
          <Heading>Large flats</Heading>
          {f.flats.length === 0 ? (
            <p className="text-second">No flat of at least 1 % of the surface.</p>
          ) : (
            <table className="w-full border-collapse" data-testid="flats">
              <thead>
                <tr className="narrow border-b-[1.4px] border-ink text-right text-second">
                  <th className="text-left font-normal">no.</th>
                  <th className="text-left font-normal">faces</th>
                  <th className="font-normal">area mm²</th>
                </tr>
              </thead>
              <tbody>
                {f.flats.map((b, i) => (
                  <tr key={i} {...light(-1 - i)}>
                    <td className="figure py-1">{i + 1}</td>
                    <td className="figure">{directionWords(toVec3(b.normal)).replace(" up", "")}</td>
                    <td className="figure text-right font-semibold">{measure(b.area_mm2)}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          )}
        </div>
        {may && <Scaled part={part} />}
      </section>
      <section className="relative min-h-0">
        {shape ? (
          <Specimen
            shape={shape}
            up={up}
            limit={null}
            layer={0.2}
            hot={hot}
            onPoint={pointing ? undefined : setHot}
            faces={pointing ? { wide: false, onDesk: shape.face[onDesk ?? -1] ?? -1 } : undefined}
            section={plane}
            fly={fly}
            over={(seen, width, height) =>
              spots.length > 0 && <MeasureLine picture={seen} width={width} height={height} spots={spots} />
            }
            onPick={pointing ? (at) => void take(at.facet, at.point) : undefined}
            tints={tints}
            ghosts={ghosts}
            label={`${part.name}, ${size(high.map((v, i) => v - (low[i] ?? 0)))} mm`}
          />
        ) : (
          <p className="p-4 text-second">{data.error ? data.error.message : "Drawing the part …"}</p>
        )}
        {ghosts && <Legend rows={BESIDE} />}
        <div className="absolute bottom-3 left-1/2 flex -translate-x-1/2 items-center gap-4 bg-paper/85 px-2">
          <SectionTool box={f.bbox_mm} cut={cut} onCut={setCut} />
          <Button
            plain
            className="!px-2 !py-0"
            aria-pressed={pointing === "measure"}
            onClick={() => point(pointing === "measure" ? null : "measure")}
          >
            Measure
          </Button>
        </div>
        {pointing === "measure" && shape && (
          <div className="absolute top-10 right-4 w-[400px]">
            <Measured
              shape={shape}
              spots={spots}
              onKeep={
                may
                  ? (words) =>
                      void write(() => ({
                        title: {
                          name: part.name,
                          note: [part.note, words].filter(Boolean).join("\n"),
                          labels: [...part.labels],
                        },
                      }))
                  : null
              }
              onEnd={() => point(null)}
            />
          </div>
        )}
        <p
          className={`pointer-events-none absolute right-4 top-4 ${pointing ? "font-semibold text-crown" : "text-second"}`}
          aria-live="polite"
          data-testid="asks"
        >
          {pointing && POINTING[pointing]}
          {!pointing &&
            hot > 0 &&
            `bore ${hot}: ⌀ ${figure(f.bores?.[hot - 1]?.diameter_mm, 2)} mm, ${figure(f.bores?.[hot - 1]?.depth_mm, 1)} mm deep`}
          {!pointing && hot < 0 && `flat ${-hot}: ${measure(f.flats[-hot - 1]?.area_mm2)} mm²`}
          {!pointing && hot === 0 && "Point at a bore or a flat, here or in the lists."}
        </p>
      </section>
    </div>
  );
}
