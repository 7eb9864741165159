import type { Rule } from 'eslint';

export function roomOf(source: string, file: string): string | null;
export function roomsRule(source: string): Rule.RuleModule;
