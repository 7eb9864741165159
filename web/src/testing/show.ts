import type { Type } from '@angular/core';
import type { ComponentFixture } from '@angular/core/testing';
import { TestBed } from '@angular/core/testing';

/** A component on a page of its own, with its inputs set. */
export class Shown<Part> {
  private constructor(
    readonly fixture: ComponentFixture<Part>,
    readonly part: Part,
  ) {}

  static of<Part>(type: Type<Part>, inputs: Readonly<Record<string, unknown>>): Shown<Part> {
    const fixture = TestBed.createComponent(type);
    const shown = new Shown(fixture, fixture.componentInstance);
    shown.give(inputs);
    return shown;
  }

  give(inputs: Readonly<Record<string, unknown>>): void {
    for (const [name, value] of Object.entries(inputs)) this.fixture.componentRef.setInput(name, value);
    this.fixture.detectChanges();
  }

  /** Dialogs and drawers hang at the body, not in the component. */
  get page(): HTMLElement {
    return document.body;
  }

  get text(): string {
    return (this.page.textContent ?? '').replace(/\s+/g, ' ').trim();
  }

  all(selector: string): readonly HTMLElement[] {
    return [...this.page.querySelectorAll<HTMLElement>(selector)];
  }

  button(name: RegExp): HTMLButtonElement {
    const found = this.all('button').find((button) => name.test((button.textContent ?? '').trim()));
    if (!(found instanceof HTMLButtonElement)) throw new Error(`no button ${String(name)} in: ${this.text}`);
    return found;
  }

  press(name: RegExp): void {
    this.button(name).click();
    this.fixture.detectChanges();
  }

  async type(selector: string, value: string): Promise<void> {
    const [field] = this.all(selector);
    if (!(field instanceof HTMLInputElement)) throw new Error(`no field ${selector}`);
    field.value = value;
    field.dispatchEvent(new Event('input', { bubbles: true }));
    await this.fixture.whenStable();
    this.fixture.detectChanges();
  }

  /** What an output has told so far. */
  heard<Value>(output: { subscribe(hear: (value: Value) => void): unknown }): Value[] {
    const told: Value[] = [];
    output.subscribe((value) => told.push(value));
    return told;
  }
}
