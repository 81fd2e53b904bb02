package reach

import "testing"

func TestAPieceIsAskedForWhereOnlyAClickBringsIt(t *testing.T) {
	const click, path, exit = `{"fact":"moment.click","op":"happened","value":"#x"}`, `{"fact":"page.path","op":"is","value":"/"}`, `{"fact":"moment.exit_intent","op":"happened"}`
	for _, c := range []struct {
		rule       string
		asked, may bool
	}{
		{`{"all":[]}`, false, false}, {path, false, false}, {exit, false, false}, {click, true, true},
		{`{"all":[` + path + `,` + click + `]}`, true, true},
		{`{"any":[` + click + `,` + exit + `]}`, false, true},
		{`{"any":[{"all":[` + path + `,` + click + `]},` + click + `]}`, true, true},
		{`{"not":` + click + `}`, false, true},
		{`{"all":[` + path + `,{"not":{"not":` + click + `}}]}`, true, true},
		{`{"any":[]}`, false, false},
	} {
		p, err := Read([]byte(c.rule))
		if err != nil {
			t.Fatal(err)
		}
		if p.AskedFor() != c.asked || p.MayBeAskedFor() != c.may {
			t.Errorf("%s: asked %v, may be %v", c.rule, p.AskedFor(), p.MayBeAskedFor())
		}
	}
}
