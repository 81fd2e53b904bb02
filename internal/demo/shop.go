package demo

import (
	"embed"
	"fmt"
	"html/template"
	"net/http"
	"strings"

	"gobbet/core/piece"
)

// The shop's pages and their style.
//
//go:embed shop
var shopFiles embed.FS

// Product is something Quillfern Pottery sells.
type Product struct {
	Slug, Name, Kind, Price, About string
	Hue                            int // of its picture
}

// Article is a page of the journal.
type Article struct {
	Slug, Title, Lead string
	Hue               int
	Body              []string
}

type class struct{ Name, When, Length, Price, About string }

var products = []Product{
	{"ash-glaze", "Ash glaze, 500 ml", "Glaze", "€18.00", "A soft grey-green that breaks to amber on edges. Cone 6 to 10, brush or dip.", 95},
	{"celadon", "Pale celadon, 500 ml", "Glaze", "€19.50", "Clear, cool and deep where it pools. Lovely over carving.", 150},
	{"tenmoku", "Tenmoku, 500 ml", "Glaze", "€18.00", "Near black, rust where it is thin. Needs a slow cooling.", 22},
	{"tin-white", "Tin white, 500 ml", "Glaze", "€16.50", "A warm, quiet white for tableware. Food safe at cone 6.", 42},
	{"river-clay", "River stoneware, 12.5 kg", "Clay", "€14.00", "Smooth, buff, forgiving on the wheel. Fires to a toasty brown.", 28},
	{"porcelain", "Quill porcelain, 10 kg", "Clay", "€24.00", "Very white, throws like butter, dries like it means it.", 48},
	{"raku-clay", "Grogged raku, 12.5 kg", "Clay", "€15.50", "Open and tough. Made for smoke, shock and big hand-built work.", 14},
	{"trim-tools", "Trimming set", "Tools", "€32.00", "Three loops and a ribbon, sharpened here and sharpened again for free.", 200},
}

var classes = []class{
	{"First evening on the wheel", "Tuesdays, 18:30", "3 hours", "€55", "Clay on your sleeves and a bowl to take home. No experience wanted or needed."},
	{"Six weeks of throwing", "Thursdays, 18:00", "6 × 2½ hours", "€260", "Centre, open, pull, trim, glaze. Two firings and all clay are in the price."},
	{"Glaze weekend", "First Saturday of the month", "2 days", "€190", "Mix, test and read glazes. You leave with forty tiles and your own recipe."},
}

var articles = []Article{
	{"ash-glaze", "What the ash knows", "How a bucket of stove ash becomes the quietest glaze on the shelf.", 95, []string{
		"Every autumn we sweep out the studio stove and keep what is left. Beech ash, mostly, with some apple from the old tree by the gate. Washed, sieved and dried it is a fine grey powder that looks like nothing at all.",
		"Ash is half a glaze by itself. The tree has taken up lime and potash and a little silica, and the fire has made them ready. Add clay for body and a feldspar for melt and you have a recipe that is older than writing.",
		"Test it first. Every stove and every wood gives another ash, so we mix small: fifty grams, three tiles, one firing. Write the numbers on the back of the tile before it goes in. You will not remember.",
		"Put it on thinner than you think. Where it runs it goes to glass and pools in a green that no stain can match; where it is thick it crawls and sulks. A brush gives a softer edge than a dip.",
		"Fire slowly through the middle, hold at the top for a quarter of an hour, and leave the lid alone. The best of ash happens on the way down, when crystals have time to think.",
		"And keep a note of what you burned. In spring, when a pot comes out right, you will want to know which tree it was.",
	}},
	{"first-kiln", "Your first kiln, honestly", "Small, second hand and electric: what we wish someone had told us.", 14, []string{
		"You do not need the kiln you are dreaming of. You need one that plugs in where you live, that you can lift the lid of alone, and that someone nearby can mend.",
		"Ask how many firings it has done, and look at the elements. Shiny and sagging means soon; grey and even means you have a year. Elements can be had. A cracked lid is another matter.",
		"Buy cones, not faith. A controller tells you what the thermocouple thinks; a cone tells you what the clay felt.",
		"Fire empty once, then with the ugliest things you own. Learn the hot shelf and the cold corner before you trust it with a month of work.",
	}},
	{"glaze-testing", "Forty tiles in a weekend", "A way of testing that fits into two days and one shoebox.", 150, []string{
		"A line blend is two glazes and patience. Take A and B, and mix them in steps of ten. Eleven tiles, and you know more than a book can tell you.",
		"Make the tiles the same: same clay, same thickness, a foot so that they stand, and a ridge so that the glaze shows how it breaks.",
		"Photograph them in daylight, all together, with a grey card. Colours lie one by one.",
	}},
	{"wedging", "Ninety turns of the ram's head", "Why we still wedge by hand, and how to spare your wrists.", 28, []string{
		"Clay remembers. How it was dried, how it was cut, how it was thrown back in the bucket. Wedging is how you make it forget.",
		"Stand high, keep your arms straight and let your weight do it. If your wrists hurt your table is too tall.",
		"Ninety turns is a good number, not because of the clay but because by then you have stopped thinking about the post.",
	}},
}

// page is what a template gets.
type page struct {
	Title, Kind, Path string
	// Script is the address of the loader; empty leaves the page without it.
	Script, SiteKey string
	// Pages is where the addresses of pieces' own pages begin.
	Pages    string
	Products []Product
	Product  Product
	Articles []Article
	Article  Article
	Classes  []class
	// Member says that the visitor is signed in to the shop.
	Member bool
	Basket []Product
	Total  float64 // of the basket, in euros
	Order  float64 // what was just ordered came to; 0: nothing was
}

// Shop is Quillfern Pottery's website, a made-up shop on an origin of its own,
// with Gobbet's one line in its head, and links to what Gobbet shares at pagesAt.
func Shop(gobbet, pagesAt, siteKey string) http.Handler {
	pages := template.Must(template.ParseFS(shopFiles, "shop/*.html"))
	mux := http.NewServeMux()
	mux.HandleFunc("GET /shop.css", func(w http.ResponseWriter, r *http.Request) {
		http.ServeFileFS(w, r, shopFiles, "shop/shop.css")
	})
	back := func(w http.ResponseWriter, r *http.Request, to string, c http.Cookie) {
		c.Path, c.HttpOnly, c.SameSite = "/", true, http.SameSiteLaxMode
		http.SetCookie(w, &c)
		http.Redirect(w, r, to, http.StatusSeeOther)
	}
	mux.HandleFunc("POST /member", func(w http.ResponseWriter, r *http.Request) {
		c := http.Cookie{Name: "member", Value: "1"}
		if _, err := r.Cookie("member"); err == nil {
			c.MaxAge = -1
		}
		back(w, r, "/", c)
	})
	mux.HandleFunc("POST /basket", func(w http.ResponseWriter, r *http.Request) {
		slugs := ""
		for _, p := range append(basketOf(r), productOf(r.PostFormValue("add"))) {
			if p.Slug != "" {
				slugs += p.Slug + "."
			}
		}
		back(w, r, "/basket", http.Cookie{Name: "basket", Value: slugs})
	})
	mux.HandleFunc("POST /order", func(w http.ResponseWriter, r *http.Request) {
		total := 0.0
		for _, p := range basketOf(r) {
			total += p.euros()
		}
		http.SetCookie(w, &http.Cookie{Name: "order", Value: fmt.Sprintf("%.2f", total), Path: "/thanks", HttpOnly: true, SameSite: http.SameSiteLaxMode})
		back(w, r, "/thanks", http.Cookie{Name: "basket", MaxAge: -1})
	})
	mux.HandleFunc("GET /", func(w http.ResponseWriter, r *http.Request) {
		p, name := pageAt(r.URL.Path)
		w.Header().Set("Content-Type", "text/html; charset=utf-8")
		if name == "gone" {
			w.WriteHeader(http.StatusNotFound)
		}
		_, err := r.Cookie("member")
		p.Member, p.Basket = err == nil, basketOf(r)
		for _, one := range p.Basket {
			p.Total += one.euros()
		}
		if c, err := r.Cookie("order"); err == nil && p.Kind == "thanks" {
			fmt.Sscanf(c.Value, "%f", &p.Order)
		}
		p.Pages = piece.PagesAt(pagesAt, siteKey)
		p.Script, p.SiteKey, p.Path = gobbet+"/v1/gobbet.js", siteKey, r.URL.Path
		if err := pages.ExecuteTemplate(w, name, p); err != nil {
			http.Error(w, err.Error(), http.StatusInternalServerError)
		}
	})
	return mux
}

const mostInBasket = 20

// basketOf reads the basket, which the visitor's browser keeps.
func basketOf(r *http.Request) (basket []Product) {
	c, err := r.Cookie("basket")
	if err != nil {
		return nil
	}
	for slug := range strings.SplitSeq(c.Value, ".") {
		if p := productOf(slug); p.Slug != "" && len(basket) < mostInBasket {
			basket = append(basket, p)
		}
	}
	return basket
}

func productOf(slug string) Product {
	for _, p := range products {
		if p.Slug == slug {
			return p
		}
	}
	return Product{}
}

func (p Product) euros() (n float64) {
	fmt.Sscanf(strings.TrimPrefix(p.Price, "€"), "%f", &n)
	return n
}

func pageAt(path string) (p page, template string) {
	first, slug, _ := strings.Cut(strings.Trim(path, "/"), "/")
	switch {
	case first == "":
		return page{Title: "Glazes, clay and classes", Kind: "home", Products: products[:4], Articles: articles[:2]}, "home"
	case first == "shop" && slug == "":
		return page{Title: "The shop", Kind: "list", Products: products}, "list"
	case first == "shop" && productOf(slug).Slug != "":
		one := productOf(slug)
		return page{Title: one.Name, Kind: "product", Product: one, Products: products[:3]}, "product"
	case first == "classes" && slug == "":
		return page{Title: "Classes", Kind: "classes", Classes: classes}, "classes"
	case first == "journal" && slug == "":
		return page{Title: "Journal", Kind: "journal", Articles: articles}, "journal"
	case first == "journal":
		for _, one := range articles {
			if one.Slug == slug {
				return page{Title: one.Title, Kind: "article", Article: one}, "article"
			}
		}
	case first == "basket" && slug == "":
		return page{Title: "Your basket", Kind: "basket"}, "basket"
	case first == "thanks" && slug == "":
		return page{Title: "Thank you", Kind: "thanks"}, "thanks"
	}
	return page{Title: "Not here", Kind: "gone"}, "gone"
}

// Paths lists the shop's pages, for the traffic and for the studio's backdrop.
func Paths() []string {
	paths := []string{"/", "/shop", "/classes", "/journal", "/basket"}
	for _, p := range products {
		paths = append(paths, "/shop/"+p.Slug)
	}
	for _, a := range articles {
		paths = append(paths, "/journal/"+a.Slug)
	}
	return paths
}
