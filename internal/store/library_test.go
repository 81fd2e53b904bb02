package store_test

import (
	"encoding/json"
	"errors"
	"fmt"
	"sync"
	"testing"
	"time"

	"gobbet/core/fault"
	"gobbet/core/piece"
	"gobbet/internal/store/codes"
	"gobbet/internal/store/library"
	"gobbet/internal/store/pieces"
	"gobbet/internal/store/sites"
	"gobbet/internal/store/storetest"
)

func TestEachVisitorGetsOneCodeAndNoCodeGoesTwice(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	var batch []string
	for i := range 40 {
		batch = append(batch, fmt.Sprint("CODE", i))
	}
	if added, err := s.Codes.Add(ctx, site, "spring", "Spring", append(batch, batch[:5]...)); err != nil || added != 40 {
		t.Fatal(added, err)
	}
	if added, err := s.Codes.Add(ctx, site, "spring", "Spring", batch); err != nil || added != 0 {
		t.Fatal(added, err)
	}
	var mu sync.Mutex
	given := map[string]map[string]bool{} // code → visitors
	dry := 0
	var all sync.WaitGroup
	for i := range 150 { // three requests each of fifty visitors, all at once
		all.Add(1)
		go func() {
			defer all.Done()
			visitor := fmt.Sprint("visitor-", i%50)
			code, err := s.Codes.Take(ctx, site, codes.Taker{Pool: "spring", Visitor: visitor, Piece: "p", Unwatched: true})
			mu.Lock()
			defer mu.Unlock()
			switch {
			case errors.Is(err, fault.ErrNotFound):
				dry++
			case err != nil:
				t.Error(err)
			default:
				if given[code] == nil {
					given[code] = map[string]bool{}
				}
				given[code][visitor] = true
			}
		}()
	}
	all.Wait()
	has := map[string]string{}
	for code, visitors := range given {
		for v := range visitors {
			if len(visitors) > 1 || has[v] != "" && has[v] != code {
				t.Errorf("%s went to %v", code, visitors)
			}
			has[v] = code
		}
	}
	pools, err := s.Codes.Pools(ctx, site)
	if err != nil || len(pools) != 1 || pools[0].Left != 0 || pools[0].Given != 40 || len(given) != 40 || dry == 0 {
		t.Errorf("%+v, %d given, %d found none (%v)", pools, len(given), dry, err)
	}
	if err := s.Codes.RemovePool(ctx, site, "spring"); err != nil {
		t.Error(err)
	}
	if err := s.Codes.RemovePool(ctx, site, "spring"); !errors.Is(err, fault.ErrNotFound) {
		t.Error(err)
	}
}

func TestVersionsAreOneASittingAndKeepLaunches(t *testing.T) {
	s := storetest.New(t)
	site, _ := storetest.Site(t, s)
	doc := func(name string) []byte {
		raw, _ := json.Marshal(piece.New(name, piece.Popup, "s"))
		return raw
	}
	if err := s.Pieces.Add(ctx, site, "p", doc("One")); err != nil {
		t.Fatal(err)
	}
	save := func(version int, name string) {
		if _, err := s.Pieces.SaveDraft(ctx, site, "p", version, doc(name)); err != nil {
			t.Fatal(err)
		}
	}
	save(1, "Two")
	save(2, "Three")
	if err := s.Pieces.Launch(ctx, pieces.Act{Site: site}, "p", 3, nil); err != nil {
		t.Fatal(err)
	}
	save(3, "Four")
	save(4, "Five")
	versions, err := s.Pieces.Versions(ctx, site, "p", 10)
	if err != nil || len(versions) != 2 {
		t.Fatalf("%d versions (%v)", len(versions), err)
	}
	if versions[0].Version != 5 || versions[0].Launched || versions[1].Version != 3 || !versions[1].Launched || time.Since(versions[0].SavedAt) > time.Minute {
		t.Errorf("%+v", versions)
	}
	if _, err := s.Pieces.SaveDraft(ctx, site, "p", 4, doc("Late")); !errors.Is(err, fault.ErrStale) {
		t.Error(err)
	}
	if again, _ := s.Pieces.Versions(ctx, site, "p", 10); len(again) != 2 {
		t.Error("a save that was refused left a version")
	}
}

func TestFilesAndSnippetsStayWithTheirSite(t *testing.T) {
	s := storetest.New(t)
	site, account := storetest.Site(t, s)
	other, err := s.Sites.Add(ctx, "other", "Other", "UTC", sites.Texts{"https://other.test"}, account)
	if err != nil {
		t.Fatal(err)
	}
	f := library.File{Hash: "aa", Name: "guide.pdf", Mime: "application/octet-stream", Body: []byte("guide")}
	for range 2 {
		if err := s.Library.AddFile(ctx, site, f); err != nil {
			t.Fatal(err)
		}
	}
	if files, _ := s.Library.Files(ctx, site); len(files) != 1 || files[0].Bytes != 5 || files[0].Body != nil {
		t.Errorf("%+v", files)
	}
	if err := s.Library.RemoveFile(ctx, other, "aa"); !errors.Is(err, fault.ErrNotFound) {
		t.Error("another site took it out:", err)
	}
	if got, err := s.Library.File(ctx, "aa"); err != nil || string(got.Body) != "guide" {
		t.Error(got, err)
	}
	if err := s.Library.AddSnippet(ctx, site, library.Snippet{ID: "k", Kind: "block", Name: "Thanks", Body: json.RawMessage(`{}`)}); err != nil {
		t.Fatal(err)
	}
	if kept, _ := s.Library.Snippets(ctx, other); len(kept) != 0 {
		t.Error(kept)
	}
	if err := s.Library.RemoveSnippet(ctx, site, "k"); err != nil {
		t.Error(err)
	}
}
