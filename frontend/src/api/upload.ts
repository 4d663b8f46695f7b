import { useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useLocation } from "wouter";
import { decimals } from "../words/numbers";
import * as t from "../words/texts/api/upload";
import { api, type IntakeLine, type Quality, taken, type Unit, type Up } from "./client";
import { openOf } from "./formats";
import { toast } from "./toast";
import { zipped } from "./zip";

export interface Upload {
  name: string;
  /** Bytes that the server has. */
  sent: number;
  /** Bytes of the file. */
  size: number;
}

const MEGABYTE = 1e6;

/** How far a file has come, in the words of file managers: "34 of 120 MB". */
export function sentWords({ sent, size }: Pick<Upload, "sent" | "size">): string {
  const mb = (bytes: number) => decimals(bytes / MEGABYTE, size < 10 * MEGABYTE ? 1 : 0);
  return t.ofMb(mb(sent), mb(size));
}

/** What is asked before a file is taken in. */
export interface Asked {
  name: string;
  quality: Quality;
  unit: Unit;
  up: Up;
}

/** How a file is read first; the intake screen lets one change it. */
export function defaultsFor(fileName: string): Asked {
  const open = openOf(fileName);
  return {
    name: fileName.replace(/\.\w+$/, ""),
    quality: "fair",
    unit: open?.unitless ? "mm" : "as written",
    up: open?.up ?? "as written",
  };
}

/** One file to send: several that belong together (a model with its side files) go as a ZIP. */
export async function together(files: File[]): Promise<File | undefined> {
  if (files.length < 2) return files[0];
  const main = files.find((file) => openOf(file.name)) ?? files[0]!;
  return zipped(files, `${main.name.replace(/\.\w+$/, "")}.zip`);
}

/** Files by model: each that can be opened alone, with all side files; one group where there is one such file. */
export function byModel(files: File[]): File[][] {
  const models = files.filter((file) => openOf(file.name));
  if (models.length < 2) return [files];
  const sides = files.filter((file) => !openOf(file.name));
  return models.map((file) => [file, ...sides]);
}

/** One file to send for each model among files, see `byModel`. */
export async function modelFiles(files: File[]): Promise<File[]> {
  const sent = await Promise.all(byModel(files).map(together));
  return sent.filter((file) => file !== undefined);
}

let further: { after: string; models: File[] } = { after: "", models: [] };

/** Keeps models for the review that a first one becomes, which is sent under that name. */
export function holdFurther(after: string, models: File[]) {
  further = { after, models };
}

/** How many wait for the model that came under a name. */
export const furtherCount = (name: string) => (further.after === name ? further.models.length : 0);

/** What was kept for it, once. */
export function takeFurther(name: string): File[] {
  if (further.after !== name) return [];
  const { models } = further;
  holdFurther("", []);
  return models;
}

/** Why a file cannot be sent, if so. */
export function problemWith(file: File): string | undefined {
  if (!openOf(file.name)) return t.cannotBeImportedExport(file.name);
  if (file.size === 0) return t.isEmptyExportIt(file.name);
}

/** Bytes that tell whether the rest is worth sending. */
const HEAD = 2 ** 20;

/** Why a file cannot be read, by how it begins: asked before the whole of it is sent. */
async function hopeless(file: File): Promise<string | undefined> {
  const query = new URLSearchParams({ file_name: file.name });
  const reply = await fetch(`/api/intakes/look?${query}`, {
    method: "POST",
    headers: { "Content-Type": "application/octet-stream" },
    body: file.slice(0, HEAD),
  }).catch(() => undefined);
  // Where nobody answers, sending will say why.
  if (!reply?.ok) return undefined;
  const { problem } = await reply.json();
  return problem ? `${file.name}: ${problem}` : undefined;
}

/** What a file is sent for. */
export interface Target {
  purpose: "add" | "replace";
  review_id: string;
  model?: string;
}

/** Sends a file for a review that exists; how it goes on shows among the review's runs. */
export function useSend() {
  const client = useQueryClient();
  return (file: File, target: Target) => {
    const problem = problemWith(file);
    if (problem) {
      toast.error(problem);
      return;
    }
    const query = new URLSearchParams({ file_name: file.name, ...defaultsFor(file.name), ...target });
    const send = async () => {
      const lost = await hopeless(file);
      if (lost) throw new Error(lost);
      const headers = { "Content-Type": "application/octet-stream" };
      const reply = await fetch(`/api/intakes?${query}`, { method: "POST", headers, body: file });
      if (!reply.ok) throw new Error((await reply.json())?.detail ?? t.theServerAnswered2(reply.status));
      client.invalidateQueries({ queryKey: ["runs", target.review_id] });
    };
    const sending = send();
    toast.promise(sending, {
      loading: t.sending(file.name),
      success: t.isBeingRead(file.name),
      error: (problem: Error) => problem.message,
    });
  };
}

/** Sends a file as it is (no form around it, so nothing is held twice) and follows its intake to the end. */
export function useUpload() {
  const client = useQueryClient();
  const [, go] = useLocation();
  const [state, setState] = useState<Upload>();
  const request = useRef<XMLHttpRequest>(undefined);
  const here = useRef(true);
  useEffect(() => {
    here.current = true;
    return () => {
      here.current = false;
    };
  }, []);

  const start = async (file: File, { name, quality, unit, up }: Asked) => {
    const problem = problemWith(file) ?? (await hopeless(file));
    if (problem) {
      toast.error(problem, { duration: 15_000 });
      return;
    }
    const xhr = new XMLHttpRequest();
    request.current = xhr;
    const query = new URLSearchParams({ file_name: file.name, name, quality, unit, up, ask: "true" });
    xhr.open("POST", `/api/intakes?${query}`);
    xhr.setRequestHeader("Content-Type", "application/octet-stream");
    xhr.responseType = "json";
    xhr.upload.onprogress = ({ loaded, total }) => setState({ name, sent: loaded, size: Math.max(1, total) });
    xhr.onerror = () => toast.error(t.theFileCouldNot);
    xhr.onloadend = () => {
      setState(undefined);
      if (xhr.status === 201) {
        client.invalidateQueries({ queryKey: ["reviews"] });
        follow(xhr.response.id);
      } else if (xhr.status) toast.error(xhr.response?.detail ?? t.theServerAnswered(xhr.status));
    };
    setState({ name, sent: 0, size: file.size });
    xhr.send(file);
  };

  const follow = async (intake_id: string) => {
    for (;;) {
      await new Promise((done) => setTimeout(done, 700));
      let run: IntakeLine;
      try {
        run = await taken<IntakeLine>(
          api.GET("/api/intakes/{intake_id}", { params: { path: { intake_id } } }),
        );
      } catch {
        continue;
      }
      if (run.state === "queued" || run.state === "running") continue;
      if (run.state === "ready" && here.current) {
        go(`/intakes/${run.id}`);
        return;
      }
      client.invalidateQueries({ queryKey: ["reviews"] });
      // The page of reviews shows a failure itself; elsewhere it is said here.
      if (run.state === "failed" && !here.current)
        toast.error(`${run.file_name}: ${run.message}`, { duration: 30_000 });
      if (run.state === "done" && run.review_id && here.current) go(`/reviews/${run.review_id}`);
      return;
    }
  };

  return { state, start, stop: () => request.current?.abort() };
}
