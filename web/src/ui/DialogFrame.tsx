import { Dialog } from "radix-ui";
import type { ReactNode } from "react";
import { Button } from "./parts";

type FrameProps = { title: string; says?: string; width?: string; close?: string; children: ReactNode };

/** What is in every dialog: the sheet over the page, its title and words, what it holds, and, where it may be left, the way out. */
export function DialogFrame({ title, says, width = "max-w-[40rem]", close, children }: FrameProps) {
  return (
    <Dialog.Portal>
      <Dialog.Overlay className="fixed inset-0 z-40 bg-black/45" />
      <Dialog.Content
        className={`fixed top-1/2 left-1/2 z-50 max-h-[90vh] w-[94vw] ${width} -translate-x-1/2 -translate-y-1/2 overflow-y-auto border border-line bg-panel p-5`}
        {...(says ? {} : { "aria-describedby": undefined })}
      >
        <Dialog.Title className="mb-2 text-lg font-bold">{title}</Dialog.Title>
        {says && <Dialog.Description className="mb-3">{says}</Dialog.Description>}
        {children}
        {close && (
          <Dialog.Close asChild>
            <Button className="mt-4">{close}</Button>
          </Dialog.Close>
        )}
      </Dialog.Content>
    </Dialog.Portal>
  );
}
