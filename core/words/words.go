// Package words holds the fixed words that visitors read on pieces: what a button
// says while an answer is sent, what is wrong with an answer, how many have voted.
// There is one table for each language, and a site may word each of them anew.
//
//	lang := words.Choose("de-AT", "en")          // "de"
//	words.In(lang, nil)["sending"]               // "Wird gesendet…"
//	words.Say(lang, nil, "This is too long.")    // "Das ist zu lang."
//
// Words in braces are put in by whoever says it: {n}, {all}, {what}, {prize}, {list}.
// What is counted has a form for each plural category of the language (CLDR), such as
// one={n} vote|other={n} votes.
package words

import (
	"embed"
	"fmt"
	"maps"
	"regexp"
	"slices"
	"strings"
	"unicode/utf8"

	"gobbet/core/fault"
)

// Table is the words of a language by their keys.
type Table map[string]string

// Usual is the language of pages that say none, or one that has no table.
const Usual = "en"

//go:embed tables/*.txt
var files embed.FS

var tables, keys = read()

func read() (all map[string]Table, keys []string) {
	all = map[string]Table{}
	listed, err := files.ReadDir("tables")
	if err != nil {
		panic(err)
	}
	for _, file := range listed {
		text, err := files.ReadFile("tables/" + file.Name())
		if err != nil {
			panic(err)
		}
		lang := strings.TrimSuffix(file.Name(), ".txt")
		t := Table{}
		for line := range strings.Lines(string(text)) {
			key, say, _ := strings.Cut(strings.TrimSuffix(line, "\n"), ": ")
			if t[key] = say; lang == Usual {
				keys = append(keys, key)
			}
		}
		all[lang] = t
	}
	return all, keys
}

// Languages are those that have a table, by their codes (ISO 639-1).
func Languages() []string { return slices.Sorted(maps.Keys(tables)) }

// Keys are those of every table, in order.
func Keys() []string { return slices.Clone(keys) }

// others are codes that stand for a language under another.
var others = map[string]string{"no": "nb", "nn": "nb", "iw": "he"}

// Choose gives the first of some language tags (BCP 47) that has a table.
func Choose(tags ...string) string {
	for _, tag := range tags {
		base, _, _ := strings.Cut(strings.ToLower(strings.TrimSpace(tag)), "-")
		if other, ok := others[base]; ok {
			base = other
		}
		if tables[base] != nil {
			return base
		}
	}
	return Usual
}

// RightToLeft reports whether the language that a tag (BCP 47) has its words in is
// written from right to left.
func RightToLeft(tag string) bool { return slices.Contains([]string{"ar", "he"}, Choose(tag)) }

// In is the words of a language, those of own instead of the table's.
func In(lang string, own Table) Table {
	t := maps.Clone(tables[Choose(lang)])
	for key, say := range own {
		if _, ok := t[key]; ok && say != "" {
			t[key] = say
		}
	}
	return t
}

// keysOf finds the key of what is said in English.
var keysOf = func() map[string]string {
	of := map[string]string{}
	for key, say := range tables[Usual] {
		of[say] = key
	}
	return of
}()

// bounds are what core/answer says of an answer that is out of its bounds: which
// words stand for it, and the bounds themselves, which every language reads.
var bounds = []struct {
	says *regexp.Regexp
	key  string
	in   string
}{
	{regexp.MustCompile(`^This should be (\S+) or later\.$`), "date", "≥ $1"},
	{regexp.MustCompile(`^This should be (\S+) or earlier\.$`), "date", "≤ $1"},
	{regexp.MustCompile(`^This should be at least (\S+)\.$`), "number", "≥ $1"},
	{regexp.MustCompile(`^This should be at most (\S+)\.$`), "number", "≤ $1"},
	{regexp.MustCompile(`^This should be (\S+) to (\S+)\.$`), "number", "$1–$2"},
	{regexp.MustCompile(`^Please choose at least (\S+)\.$`), "choose_some", "≥ $1"},
	{regexp.MustCompile(`^Please choose at most (\S+)\.$`), "choose_some", "≤ $1"},
	{regexp.MustCompile(`^Please choose (\S+) to (\S+)\.$`), "choose_some", "$1–$2"},
	{regexp.MustCompile(`^This should be at least (\S+) characters long\.$`), "form", "≥ $1"},
	{regexp.MustCompile(`^This should be at most (\S+) characters long\.$`), "long", "≤ $1"},
	{regexp.MustCompile(`^This should be (\S+) to (\S+) characters long\.$`), "form", "$1–$2"},
}

// Say gives in a language what the core says in English; what has no words in it stays.
func Say(lang string, own Table, english string) string {
	lang = Choose(lang)
	say := func(key string) string {
		if is := own[key]; is != "" {
			return is
		}
		return tables[lang][key]
	}
	if key, ok := keysOf[english]; ok {
		return say(key)
	}
	if lang == Usual {
		return english
	}
	for _, b := range bounds {
		if at := b.says.FindStringSubmatchIndex(english); at != nil {
			return fmt.Sprintf("%s (%s)", say(b.key), b.says.ExpandString(nil, b.in, english, at))
		}
	}
	return english
}

const longest = 300 // characters of what is worded anew

var filled = regexp.MustCompile(`\{\w+\}`)

// Check finds what is wrong with words that a site has of its own, by languages. Its
// faults lie at LANGUAGE.KEY.
func Check(own map[string]Table) error {
	var faults fault.Faults
	for _, lang := range slices.Sorted(maps.Keys(own)) {
		if tables[lang] == nil {
			faults.Add(fault.Key("", lang), "is not a language that there are words in")
			continue
		}
		for _, key := range slices.Sorted(maps.Keys(own[lang])) {
			at, say := fault.Key(fault.Key("", lang), key), own[lang][key]
			usual, ok := tables[lang][key]
			switch {
			case !ok:
				faults.Add(at, "is not among the words that there are")
			case utf8.RuneCountInString(say) > longest:
				faults.Add(at, "is longer than %d characters", longest)
			case strings.Contains(say, "\n") || strings.Contains(say, "\x00"):
				faults.Add(at, "should be one line")
			default:
				for _, name := range filled.FindAllString(say, -1) {
					if !strings.Contains(usual, name) {
						faults.Add(at, "has %s, which nothing is put in for", name)
					}
				}
			}
		}
	}
	return faults.Err()
}
