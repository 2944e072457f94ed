import { useAnswers, useZones } from "../api/queries";
import { Segmented } from "../parts/Segmented";
import { useNarrow } from "../parts/useNarrow";
import { useCabs } from "../steps/cabs/queries";
import { type Look, useBench } from "../store/bench";
import { useLayout } from "../store/layout";
import { useTrainsOn } from "../store/trainsOn";
import { Head } from "./Heads";
import { darkest, RAMP_CSS, RAMP_CSS_BACK } from "./ink";
import { LOOK_NAMES } from "./lookNames";

const LOOKS = LOOK_NAMES.map(([look, name]) => [look, name] as const);

/** The row of looks, the scene they are for, and what the ink means. */
export function Looks() {
  const { look, scene, set } = useBench();
  const narrow = useNarrow();
  const { data } = useAnswers();
  const scenes = Object.entries(useLayout((s) => s.state?.document.scenes) ?? {});
  const volts = data?.source_volts ?? 0;
  return (
    <div className="pointer-events-none absolute inset-x-3 top-2.5 z-10 flex flex-wrap items-center gap-x-3 gap-y-1.5">
      <div className="pointer-events-auto flex items-center gap-2">
        <span className="text-mute text-xs">Show</span>
        {narrow ? (
          <select
            aria-label="Look of the plan"
            className="field w-auto bg-card text-ink"
            value={look}
            onChange={(event) => set({ look: event.target.value as Look, picked: null })}
          >
            {LOOKS.map(([key, name]) => (
              <option key={key} value={key}>
                {name}
              </option>
            ))}
          </select>
        ) : (
          <Segmented
            label="Look of the plan"
            value={look}
            options={LOOKS}
            onChange={(value) => set({ look: value, picked: null })}
          />
        )}
      </div>
      {(look === "volts" || look === "cabs") && scenes.length ? (
        <label className="pointer-events-auto flex items-center gap-1.5 text-mute text-xs">
          in
          <select
            aria-label="Scene"
            className="field w-auto bg-card text-ink"
            value={scene ?? ""}
            onChange={(event) => set({ scene: event.target.value, picked: null })}
          >
            {scenes.map(([id, s]) => (
              <option key={id} value={id}>
                {s.name}
              </option>
            ))}
          </select>
        </label>
      ) : null}
      <span className="flex-1" />
      {look === "volts" && data ? (
        <Legend
          from={`${volts.toFixed(1)} V`}
          to={`${(volts * (1 - darkest(data))).toFixed(1)} V`}
          css={RAMP_CSS}
          note="barred: beyond the house rule"
        />
      ) : null}
      {look === "coin" && data ? (
        <Legend from="1 × trip" to="3 × and more" css={RAMP_CSS_BACK} note="barred: under the house margin" />
      ) : null}
      {look === "phase" ? <PhaseLegend /> : null}
      {look === "reversing" ? <ReversingLegend /> : null}
      {look === "zones" ? <ZonesLegend /> : null}
      {look === "cabs" ? <CabsLegend /> : null}
      {look === "blocks" ? <BlocksLegend /> : null}
      {look === "signals" ? <SignalsLegend /> : null}
      {look === "track" && data ? <span className="text-mute text-xs">{data.track_text} of track</span> : null}
    </div>
  );
}

function Legend({ from, to, css, note }: { from: string; to: string; css: string; note: string }) {
  return (
    <div className="flex items-center gap-2 rounded bg-paper/85 px-1.5 text-[11px] text-mute" title={note}>
      <span className="figure">{from}</span>
      <span aria-hidden="true" className="h-2 w-[110px] rounded" style={{ background: css }} />
      <span className="figure">{to}</span>
    </div>
  );
}

function Key({ colour, words, dash, core }: { colour: string; words: string; dash?: string; core?: boolean }) {
  return (
    <span className="flex items-center gap-1">
      <svg width="22" height="8" aria-hidden="true">
        <path d="M0 4H22" stroke={colour} strokeWidth="3.4" strokeDasharray={dash} />
        {core ? <path d="M0 4H22" stroke="var(--paper)" strokeWidth="1.1" /> : null}
      </svg>
      {words}
    </span>
  );
}

function PhaseLegend() {
  return (
    <div className="flex flex-wrap items-center gap-x-2.5 rounded bg-paper/85 px-1.5 text-[11px] text-mute">
      <Key colour="var(--copper)" words="A" />
      <Key colour="var(--slate)" words="B" core />
      <Key colour="var(--dead)" words="nothing" dash="2 3" />
      <Key colour="var(--oxide)" words="both: short" dash="5 2" />
      <span>click a turnout to set it</span>
    </div>
  );
}

function ZonesLegend() {
  const wrong = useZones().data?.wrong.length ?? 0;
  return (
    <div className="flex flex-wrap items-center gap-x-2.5 rounded bg-paper/85 px-1.5 text-[11px] text-mute">
      <span>ink by district</span>
      <Key colour="var(--dead)" words="no district" dash="5 4" />
      {wrong ? <Key colour="var(--oxide)" words="a short here opens the wrong one, or none" dash="5 4" /> : null}
    </div>
  );
}

function CabsLegend() {
  const { data } = useCabs();
  const step = useBench((s) => s.step);
  return (
    <div className="flex flex-wrap items-center gap-x-2.5 rounded bg-paper/85 px-1.5 text-[11px] text-mute">
      {/* The step itself lists them under the plan. */}
      {step === "cabs"
        ? null
        : data?.sources.slice(0, 5).map((s) => <Key key={s.device} colour={s.ink} words={s.name} />)}
      {data?.driven.some((d) => d.waits) ? <Key colour="var(--dead)" words="switched off" dash="5 4" /> : null}
      {data?.driven.some((d) => !d.source && !d.waits) ? (
        <Key colour="var(--oxide)" words="fed by nothing" dash="5 4" />
      ) : null}
    </div>
  );
}

function BlocksLegend() {
  const trains = useTrainsOn((s) => s.trains.length);
  return (
    <div className="flex flex-wrap items-center gap-x-2.5 rounded bg-paper/85 px-1.5 text-[11px] text-mute">
      <span>ink by section</span>
      <Key colour="var(--dead)" words="no detector" dash="5 4" />
      {trains ? <Key colour="var(--amber)" words="lit" /> : null}
    </div>
  );
}

const Glyph = ({ aspect, words }: { aspect: string; words: string }) => (
  <span className="flex items-center gap-1">
    <svg width="14" height="14" viewBox="-7 -7 14 14" aria-hidden="true">
      <Head light={aspect} r={5.6} />
    </svg>
    {words}
  </span>
);

function SignalsLegend() {
  return (
    <div className="flex flex-wrap items-center gap-x-2.5 rounded bg-paper/85 px-1.5 text-[11px] text-mute">
      <Glyph aspect="red" words="stop" />
      <Glyph aspect="yellow" words="approach" />
      <Glyph aspect="green" words="clear" />
      <Key colour="var(--amber)" words="occupied" />
      <Key colour="var(--oxide)" words="a train nobody sees" dash="5 4" />
    </div>
  );
}

function ReversingLegend() {
  return (
    <div className="flex flex-wrap items-center gap-x-2.5 rounded bg-paper/85 px-1.5 text-[11px] text-mute">
      <Key colour="var(--verd)" words="turned by a reverser" />
      <Key colour="var(--oxide)" words="comes back on itself" dash="5 4" />
    </div>
  );
}
