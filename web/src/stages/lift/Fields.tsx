/** The fields of a kind with their values on the page in view; the one that is open is written here. */
import type { Schemas } from "../../api/client";
import { count, many, type Plan } from "../../shell/state";
import { FRESH, readsBy, shown, type Field, type Picked } from "./field";
import { FieldEditor } from "./FieldEditor";
import { Value } from "./Value";
import { HandValue } from "./HandValue";
import { off } from "../../shell/off";
import { Proposed } from "../../shores/Proposed";

export type Kind = NonNullable<Plan["kinds"]>[number];

interface Props {
  kind: Kind | undefined;
  grid: Schemas["Grid"] | undefined;
  item: Schemas["ItemDetail"] | undefined;
  treat: (field: string) => string[] | undefined;
  revision: number | undefined;
  page: number;
  chosen: string;
  fresh: boolean;
  editing: boolean;
  picked: Picked | null;
  onTried: (nodes: number[]) => void;
  onOpen: (field: string | null) => void;
  onFresh: () => void;
  onMany: () => void;
}

export function Fields(props: Props) {
  const { kind, grid, item, treat, revision, page, chosen, fresh, editing, picked, onTried, onOpen, onFresh, onMany } =
    props;
  const name = kind?.name ?? "";
  return (
    <section className="shore new" style={{ flex: 1 }} aria-label="Fields">
      <h2>
        {kind?.label || name}{" "}
        <small>
          {many(kind?.fields?.length ?? 0, "field")}
          {editing ? " · click in the page to teach this one" : ""}
        </small>
        <span className="sp" />
        <button
          className="linkish"
          onClick={onMany}
          {...off([!grid?.items.length, "Nothing of this kind is lifted yet."])}
          title="Change the values of many items"
        >
          change many <kbd>B</kbd>
        </button>
        <button className="linkish" onClick={onFresh} {...off([!name, "Choose a kind first."])}>
          + field
        </button>
      </h2>
      <div className="scroll pad" tabIndex={0} role="region" aria-label="Fields of this kind">
        {fresh && (
          <FieldEditor
            field={FRESH}
            treat={[]}
            index={-1}
            kind={name}
            page={page}
            picked={picked}
            onTried={onTried}
            onDone={onOpen}
          />
        )}
        {(kind?.fields ?? []).map((field, n) => {
          const letters = grid?.fields[field.name] ?? "";
          const filled = [...letters].filter((l) => "fhm".includes(l)).length;
          const value = item?.fields.find((f) => f.field === field.name);
          const had = treat(field.name);
          if (field.name === chosen && !fresh && had)
            return (
              <FieldEditor
                key={`${name} ${field.name} ${revision}`}
                field={field as Field}
                treat={had}
                index={n}
                kind={name}
                page={page}
                picked={picked}
                onTried={onTried}
                onDone={onOpen}
              />
            );
          return (
            <div key={field.name} className="held">
              <button className="card" onClick={() => onOpen(field.name)}>
                <span className="top">
                  <b>{field.name}</b>
                  <span className="soft">
                    {field.type}
                    {field.required ? ", required" : ""}
                  </span>
                  <Proposed said={field.proposed} part="field" />
                  <em>{letters ? `${count(filled)}/${count(letters.length)}` : "–"}</em>
                </span>
                <div className="loc">{field.locators.map(readsBy).join(" · or ")}</div>
                {!!field.parts?.length && (
                  <div className="soft">each with {field.parts.map((part) => part.name).join(", ")}</div>
                )}
                {value && (
                  <div className="value">
                    {value.edited_at ? (
                      <b>{shown(value.edited) ? <Value value={value.edited} /> : "(nothing)"}</b>
                    ) : value.lifted !== null && value.lifted !== undefined ? (
                      <Value value={value.lifted} />
                    ) : (
                      <span className="state empty">nothing found</span>
                    )}
                    {["odd", "many"].includes(value.state) && (
                      <span className={`state ${value.state}`}> {value.note || value.state}</span>
                    )}
                  </div>
                )}
              </button>
              {value && item && <HandValue item={item.id} old={item.key} type={field.type} value={value} />}
            </div>
          );
        })}
      </div>
    </section>
  );
}
