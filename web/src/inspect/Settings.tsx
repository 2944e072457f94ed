import { useEffect, useId, useState } from "react";
import { useSet } from "./card";

/** What a device is set to, as its leaflet has it, and what the leaflet has wrong. Kept when one leaves the field. */
export function Settings({ path, name, settings }: { path: string; name: string; settings: string }) {
  const set = useSet(path, name);
  const id = useId();
  const [text, setText] = useState(settings);
  const [wrong, setWrong] = useState<string | null>(null);
  useEffect(() => setText(settings), [settings]);
  return (
    <div className="mt-2">
      <label htmlFor={id} className="mb-0.5 block text-[11.5px] text-mute">
        Set as: jumpers, switches, values; what its leaflet has wrong
      </label>
      <textarea
        id={id}
        className="field min-h-12 text-[12px]"
        maxLength={2000}
        value={text}
        placeholder="Jumper J3 open (leaflet says closed); switch 2 on"
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Escape") setText(settings);
          e.stopPropagation();
        }}
        onBlur={async () => {
          if (text !== settings) setWrong(await set("settings", text, text ? "settings" : "no settings"));
        }}
      />
      {wrong ? (
        <p role="alert" className="text-oxide text-xs">
          {wrong}
        </p>
      ) : null}
    </div>
  );
}
