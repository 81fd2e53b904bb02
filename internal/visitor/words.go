package visitor

import (
	"crypto/sha256"
	"encoding/json"
	"errors"
	"fmt"
	"maps"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"gobbet/core/fault"
	"gobbet/core/words"
	"gobbet/internal/problem"
)

// said is a table of fixed words as it is sent, under an address that changes with it.
type said struct {
	name string // LANGUAGE-HASH.json
	body []byte
}

func saidAs(lang string, own words.Table) said {
	table := words.In(lang, own)
	// What the page of a piece says is written by the server.
	maps.DeleteFunc(table, func(key, _ string) bool { return strings.HasPrefix(key, "own_") })
	body, err := json.Marshal(table)
	if err != nil {
		panic(err) // texts by texts
	}
	sum := sha256.Sum256(body)
	return said{fmt.Sprintf("%s-%x.json", lang, sum[:8]), body}
}

// usual are the tables as they ship, by languages.
var usual = func() map[string]said {
	all := map[string]said{}
	for _, lang := range words.Languages() {
		all[lang] = saidAs(lang, nil)
	}
	return all
}()

// worded makes ready the words that a site has of its own.
func (site *Site) worded() {
	site.said = map[string]said{}
	for lang, own := range site.Settings.Words {
		if len(own) > 0 {
			site.said[lang] = saidAs(lang, own)
		}
	}
}

// wordsAt is where the words of a language are for a site's pages; empty: the script
// has them.
func (site *Site) wordsAt(lang string) string {
	if own, ok := site.said[lang]; ok {
		return "/v1/sites/" + site.Key + "/words/" + own.name
	}
	if lang == words.Usual {
		return ""
	}
	return "/v1/words/" + usual[lang].name
}

// words serves a table of a language, with the site's own words if it is asked of one.
func (v *Server) words(c *gin.Context) error {
	from := usual
	if site, ok := c.Get("site"); ok {
		from = site.(*Site).said
	}
	lang, _, _ := strings.Cut(c.Param("name"), "-")
	is, ok := from[lang]
	if !ok {
		return fault.ErrNotFound
	}
	if is.name == c.Param("name") {
		forGood(c)
	}
	c.Header("Access-Control-Allow-Origin", "*")
	c.Data(http.StatusOK, "application/json", is.body)
	return nil
}

// inWords puts what is refused into the language of the page that asked.
func (site *Site) inWords(lang string, err error) error {
	if err == nil {
		return nil
	}
	lang = words.Choose(lang, site.Settings.Language)
	own := site.Settings.Words[lang]
	if lang == words.Usual && own == nil {
		return err
	}
	var p problem.Problem
	var faults fault.Faults
	var one fault.Fault
	switch {
	case errors.As(err, &p):
		p.Title = words.Say(lang, own, p.Title)
		return p
	case errors.As(err, &faults):
		translated := make(fault.Faults, len(faults))
		for i, f := range faults {
			f.Message = words.Say(lang, own, f.Message)
			translated[i] = f
		}
		return translated
	case errors.As(err, &one):
		one.Message = words.Say(lang, own, one.Message)
		return one
	}
	return err
}
