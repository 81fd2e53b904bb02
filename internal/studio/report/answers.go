package report

import (
	"encoding/json"
	"fmt"
	"strings"
	"time"

	"github.com/google/uuid"

	"gobbet/core/answer"
	"gobbet/core/fault"
	"gobbet/core/flow"
	"gobbet/core/piece"
	"gobbet/internal/route"
	"gobbet/internal/store/walks"
	"gobbet/internal/studio/parts"
)

const (
	answersPerPage = 25
	answersPerRead = 500
)

// asked reads walks as a document's questions have them.
type asked struct {
	columns  []AnswerColumn
	variants map[string]askedVariant
}

type askedVariant struct {
	letter string
	graph  *flow.Graph
	scenes map[string]string // names by id
}

// askedBy gives the questions of a piece, each key once, by the first field that has it.
func askedBy(p *piece.Piece) (*asked, error) {
	a := &asked{columns: []AnswerColumn{}, variants: map[string]askedVariant{}}
	seen := map[string]bool{}
	for i, v := range p.Split.Variants {
		g, err := flow.Of(v.Design)
		if err != nil {
			return nil, err
		}
		one := askedVariant{string(rune('A' + i)), g, map[string]string{}}
		for _, s := range v.Design.Scenes {
			one.scenes[s.ID] = s.Name
			for b := range s.All() {
				if f, ok := piece.Asked(b); ok && !seen[f.Key] && f.Ask != piece.AskEmail {
					seen[f.Key] = true
					a.columns = append(a.columns, AnswerColumn{f.Key, f.Label})
				}
			}
		}
		a.variants[v.ID] = one
	}
	return a, nil
}

// choices are the ids of choices whose labels hold a text.
func (a *asked) choices(text string) (ids []string) {
	for _, v := range a.variants {
		for id := range v.scenes {
			for _, f := range v.graph.Form(id).Fields {
				for _, c := range f.Choices {
					if strings.Contains(strings.ToLower(c.Label), strings.ToLower(text)) {
						ids = append(ids, c.ID)
					}
				}
			}
		}
	}
	return ids
}

func (a *asked) row(w walks.Answered) AnswerRow {
	row := AnswerRow{ID: w.ID, At: w.BeganAt, Variant: w.Variant, Email: w.Email, Scene: w.Scene, Result: w.Result, Answers: map[string]string{}}
	_ = json.Unmarshal(w.Answers, &row.Answers) // the program's own
	v, ok := a.variants[w.Variant]
	if !ok {
		return row
	}
	row.Variant = v.letter
	for id, name := range v.scenes {
		if id == w.Scene {
			row.Scene = name
		}
		if id == w.Result {
			row.Result = name
		}
		for key, said := range v.graph.Form(id).Said(answer.Answers(row.Answers)) {
			// The labels of choices; an id that is none any more stays.
			if said != "" {
				row.Answers[key] = strings.ReplaceAll(said, "\n", ", ")
			}
		}
	}
	return row
}

// walksAsked reads which walks are asked for.
func (s *Place) walksAsked(c *route.Call, ask AnswersQuery, limit int) (q walks.Query, a *asked, err error) {
	site := c.Site
	row, p, err := s.read.Measured(c, site.ID)
	if err != nil {
		return q, nil, err
	}
	if a, err = askedBy(p); err != nil {
		return q, nil, err
	}
	q = walks.Query{Piece: row.ID, Variant: ask.Variant, Since: s.since(ask.Days, site), Search: strings.TrimSpace(ask.Q), Limit: limit}
	if len(q.Search) > 200 || strings.ContainsRune(q.Search+q.Variant, 0) {
		return q, nil, fault.Fault{At: "q", Message: "is more than can be searched for"}
	}
	if q.Search != "" {
		q.Choices = a.choices(q.Search)
	}
	if from := ask.From; from != "" {
		micro, walk, _ := strings.Cut(from, ".")
		var at int64
		if _, err := fmt.Sscan(micro, &at); err != nil || at < 0 || at > parts.LastMicro || uuid.Validate(walk) != nil {
			return q, nil, fault.Fault{At: "from", Message: "is not where a page ended"}
		}
		q.BeforeAt, q.BeforeID = time.UnixMicro(at), walk
	}
	return q, a, nil
}

// answers lists what visitors answered, whether or not they left an address.
func (s *Place) answers(c *route.Call, ask AnswersQuery) (answer AnswerTable, err error) {
	q, a, err := s.walksAsked(c, ask, answersPerPage+1)
	if err != nil {
		return answer, err
	}
	rows, err := s.store.Walks.Answered(c, c.Site.ID, q)
	if err != nil {
		return answer, err
	}
	table := AnswerTable{Columns: a.columns, Rows: []AnswerRow{}, Searched: walks.MostSearched}
	if len(rows) > answersPerPage {
		rows = rows[:answersPerPage]
		last := rows[answersPerPage-1]
		table.Next = fmt.Sprintf("%d.%s", last.BeganAt.UnixMicro(), last.ID)
	}
	for _, w := range rows {
		table.Rows = append(table.Rows, a.row(w))
	}
	return table, nil
}

// answersCSV writes them all.
func (s *Place) answersCSV(c *route.Call, ask AnswersQuery) error {
	q, a, err := s.walksAsked(c, ask, answersPerRead)
	if err != nil {
		return err
	}
	site := c.Site.ID
	walks, err := s.store.Walks.Answered(c, site, q)
	if err != nil {
		return err
	}
	head := []string{"at", "variant", "email", "scene", "result"}
	for _, column := range a.columns {
		head = append(head, column.Label)
	}
	file := c.CSV("answers.csv", head)
	for len(walks) > 0 {
		for _, walk := range walks {
			row := a.row(walk)
			cells := []string{row.At.UTC().Format(time.RFC3339), row.Variant, row.Email, row.Scene, row.Result}
			for _, column := range a.columns {
				cells = append(cells, row.Answers[column.Key])
			}
			file.Row(cells)
		}
		if len(walks) < answersPerRead {
			break
		}
		file.More()
		last := walks[len(walks)-1]
		q.BeforeAt, q.BeforeID = last.BeganAt, last.ID
		walks, err = s.store.Walks.Answered(c, site, q)
		file.Torn(err)
	}
	return file.Close()
}
