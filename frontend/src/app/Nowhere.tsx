import { Link } from "wouter";
import { Mark } from "../ui/controls";

/** For addresses at which there is nothing. */
export function Nowhere() {
  return (
    <main className="grid h-full place-items-center">
      <div className="flex max-w-md flex-col items-start gap-2">
        <Mark />
        <h1 className="text-[20px] font-semibold">There is nothing at this address</h1>
        <p className="text-ink-2">It may be misspelt, or of an older version.</p>
        <Link href="/" className="font-semibold text-mark hover:underline">
          All reviews
        </Link>
      </div>
    </main>
  );
}
