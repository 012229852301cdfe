import type { Variable } from '../contract/contract.js';
import { nameIn } from '../contract/names.js';
import { reveal } from '../secrets/secret.js';
import { dart as dartTool } from '../toolchains/dart.js';
import { describeVariable, emitKind, inlinedIn, isAlwaysThere, madeBy } from './kind.js';

/** A class of typed accessors over compile-time constants (`--dart-define-from-file`). */
export const dart = emitKind({
  name: dartTool.name,
  summary: 'a Dart class of typed accessors over compile-time constants',
  takes: ['bundle'],
  emit({ contract, bundle, call }) {
    const members = inlinedIn(contract, bundle).map((variable) => {
      const about = describeVariable(variable);
      const comment = about === '' ? '' : `  /// ${about}\n`;
      return `${comment}  ${member(variable, nameIn(bundle, variable), isAlwaysThere(contract, variable))}`;
    });
    const name = `${upperCamel(bundle.name)}Values`;
    return `// ${madeBy(call, contract)}\n\nabstract final class ${name} {\n${members.join('\n\n')}\n}\n`;
  },
});

const fromEnvironment: Record<string, string> = { String: 'String', int: 'int', bool: 'bool' };

function member({ name, form, default: value }: Variable, readAs: string, always: boolean): string {
  const { dart: type } = form.type;
  const constant = fromEnvironment[type];
  const field = lowerCamel(name);
  if (constant) {
    const fallback = value === undefined ? '' : `, defaultValue: ${literal(type, reveal(value))}`;
    const note = always ? '' : ' // may be empty';
    return `static const ${type} ${field} = ${constant}.fromEnvironment('${readAs}'${fallback});${note}`;
  }
  const text = `const String.fromEnvironment('${readAs}'${value === undefined ? '' : `, defaultValue: ${literal('String', reveal(value))}`})`;
  if (type === 'double') return `static final double ${field} = double.parse(${text});`;
  if (type.startsWith('List<')) return `static final List<String> ${field} = ${text}.split(',');`;
  return `static const String ${field} = ${text.replace('const ', '')};`;
}

function literal(type: string, text: string): string {
  if (type === 'bool') return String(text === 'true' || text === '1');
  if (type === 'int') return String(Number(text));
  const escaped = text
    .replace(/[\\'$]/g, '\\$&')
    .replaceAll('\n', '\\n')
    .replaceAll('\r', '\\r');
  return `'${escaped.replace(/[\p{Cc}\u2028\u2029]/gu, (one) => `\\u{${one.charCodeAt(0).toString(16)}}`)}'`;
}

function upperCamel(name: string): string {
  return name
    .split(/[^A-Za-z0-9]+/)
    .map((word) => word.slice(0, 1).toUpperCase() + word.slice(1).toLowerCase())
    .join('');
}

function lowerCamel(name: string): string {
  const camel = upperCamel(name);
  return camel.slice(0, 1).toLowerCase() + camel.slice(1);
}
