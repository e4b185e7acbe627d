/** Why a text is no JSON (RFC 8259), where it stops being it. */
export type JsonFault =
  | 'ValueExpected'
  | 'NameExpected'
  | 'ColonExpected'
  | 'CommaExpected'
  | 'EndExpected'
  | 'UnterminatedString'
  | 'InvalidEscape'
  | 'InvalidCharacter'
  | 'InvalidNumber';

/** A step of the way to a value: the name of a field, or the place in a list. */
export type JsonStep = string | number;

/** Is called for each value when it begins, with the steps that lead to it; the array is the scanner's own. */
export type OnValue = (way: readonly JsonStep[], line: number) => void;

class Fault extends Error {
  constructor(
    readonly what: JsonFault,
    readonly line: number,
  ) {
    super(what);
  }
}

const NUMBER = /-?(?:0|[1-9]\d*)(?:\.\d+)?(?:[eE][+-]?\d+)?/y;
const LITERALS = ['true', 'false', 'null'];

/** Goes over a text once, holding nothing of it but the steps to where it is. */
class Scanner {
  #at = 0;
  #line = 1;
  readonly #way: JsonStep[] = [];

  constructor(
    private readonly text: string,
    private readonly onValue: OnValue,
  ) {}

  #fail(what: JsonFault): never {
    throw new Fault(what, this.#line);
  }

  /** The next sign that means something, or undefined at the end. */
  #peek(): string | undefined {
    for (; this.#at < this.text.length; this.#at++) {
      const sign = this.text[this.#at]!;
      if (sign === '\n') this.#line += 1;
      else if (sign !== ' ' && sign !== '\t' && sign !== '\r') return sign;
    }
    return undefined;
  }

  #string(): string {
    const start = this.#at;
    for (this.#at++; this.#at < this.text.length; this.#at++) {
      const code = this.text.charCodeAt(this.#at);
      if (code === 0x22) {
        this.#at++;
        return this.text.slice(start, this.#at);
      }
      if (code === 0x0a) break;
      if (code < 0x20) this.#fail('InvalidCharacter');
      if (code !== 0x5c) continue;
      const escape = this.text[++this.#at];
      if (escape === 'u' && /^[0-9a-f]{4}$/i.test(this.text.slice(this.#at + 1, this.#at + 5))) this.#at += 4;
      else if (escape === undefined || !'"\\/bfnrt'.includes(escape)) this.#fail('InvalidEscape');
    }
    this.#fail('UnterminatedString');
  }

  #number(): void {
    NUMBER.lastIndex = this.#at;
    const [number] = NUMBER.exec(this.text) ?? [];
    if (number === undefined) this.#fail('InvalidNumber');
    this.#at += number.length;
  }

  /** A name and its colon, which make the last step of the way. */
  #name(): void {
    if (this.#peek() !== '"') this.#fail('NameExpected');
    // Only the name is made a string; texts are passed over.
    this.#way[this.#way.length - 1] = JSON.parse(this.#string()) as string;
    if (this.#peek() !== ':') this.#fail('ColonExpected');
    this.#at++;
  }

  /** Opens a list or an object; whether something is in it. */
  #open(sign: '[' | '{'): boolean {
    this.#at++;
    if (this.#peek() === (sign === '[' ? ']' : '}')) {
      this.#at++;
      return false;
    }
    this.#way.push(sign === '[' ? 0 : '');
    if (sign === '{') this.#name();
    return true;
  }

  /** A value that is no list and no object, or the beginning of one; whether there is a value in it to go on with. */
  #value(): boolean {
    const sign = this.#peek();
    if (sign === undefined) this.#fail('ValueExpected');
    this.onValue(this.#way, this.#line);
    if (sign === '[' || sign === '{') return this.#open(sign);
    if (sign === '"') this.#string();
    else if (sign === '-' || (sign >= '0' && sign <= '9')) this.#number();
    else {
      const literal = LITERALS.find((word) => this.text.startsWith(word, this.#at));
      if (!literal) this.#fail('ValueExpected');
      this.#at += literal.length;
    }
    return false;
  }

  /** What stands behind a value: whether another one follows. */
  #next(): boolean {
    while (this.#way.length > 0) {
      const last = this.#way.at(-1)!;
      const sign = this.#peek();
      this.#at++;
      if (sign === ',') {
        if (typeof last === 'number') this.#way[this.#way.length - 1] = last + 1;
        else this.#name();
        return true;
      }
      if (sign !== (typeof last === 'number' ? ']' : '}'))
        this.#fail(sign === undefined ? 'EndExpected' : 'CommaExpected');
      this.#way.pop();
    }
    return false;
  }

  scan(): void {
    while (this.#value() || this.#next());
    if (this.#peek() !== undefined) this.#fail('EndExpected');
  }
}

/**
 * Goes over a JSON text value by value, in time by its length and in no memory but for the way to where it is.
 * @returns where it stops being JSON, and why; undefined for a text that is JSON
 */
export function scanJson(
  text: string,
  onValue: OnValue = () => undefined,
): { what: JsonFault; line: number } | undefined {
  try {
    new Scanner(text, onValue).scan();
    return undefined;
  } catch (error) {
    if (error instanceof Fault) return { what: error.what, line: error.line };
    throw error;
  }
}
