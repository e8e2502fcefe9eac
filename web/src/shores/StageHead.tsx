/** The head of every stage: its name and trade word, its parts, what is done from here; what runs, what failed. */
import type { ReactNode } from "react";
import { RunLine } from "./Run";
import { Tabs } from "./Tabs";
import { Told } from "./Told";

interface Props {
  title: string;
  trade: string;
  tabs?: [string, string][] | ReactNode; // the first tab is the one without an address of its own
  at?: string;
  before?: ReactNode; // right behind the title
  aside?: ReactNode;
  stage: string;
  error: unknown;
  children: ReactNode;
}

export function StageHead({ title, trade, tabs, at = "", before, aside, stage, error, children }: Props) {
  return (
    <>
      <div className="title">
        <h1>
          {title} <small>{trade}</small>
        </h1>
        {before}
        {Array.isArray(tabs) ? <Tabs at={at} first={tabs[0]?.[0] ?? ""} tabs={tabs as [string, string][]} /> : tabs}
        <span className="sp" />
        {aside && <span className="aside">{aside}</span>}
        {children}
      </div>
      <RunLine stage={stage} />
      <Told error={error} />
    </>
  );
}
