using ToughStart.Core.Planning;

namespace ToughStart.Core.Tests;

/// <summary>Sets of passes against the sets of the standard library.</summary>
public class PassSetTests
{
    [Fact]
    public void It_does_what_sets_do()
    {
        var random = new Random(4);
        for (var i = 0; i < 300; i++)
        {
            var (a, b) = (Some(), Some());
            var (x, y) = (PassSet.Of(a), PassSet.Of(b));
            (x | y).Passes().ShouldBe(a.Union(b).Order());
            (x & y).Passes().ShouldBe(a.Intersect(b).Order());
            (x & ~y).Passes().ShouldBe(a.Except(b).Order());
            x.IsIn(y).ShouldBe(a.IsSubsetOf(b));
            x.Meets(y).ShouldBe(a.Overlaps(b));
            x.Count.ShouldBe(a.Count);
            x.IsEmpty.ShouldBe(a.Count == 0);
            Enumerable.Range(0, PassSet.Capacity).Where(x.Has).ShouldBe(a.Order());
            var walked = new List<int>();
            foreach (var pass in x.Passes())
            {
                walked.Add(pass);
            }

            walked.ShouldBe([.. a.Order()], "walked without the interface");
            (x == PassSet.Of(a.Reverse())).ShouldBeTrue();
        }

        HashSet<int> Some() => [.. Enumerable.Range(0, random.Next(0, 12)).Select(_ => random.Next(PassSet.Capacity))];
    }

    [Theory]
    [InlineData(-1)]
    [InlineData(PassSet.Capacity)]
    public void What_it_cannot_hold_it_refuses(int pass) => Should.Throw<ArgumentOutOfRangeException>(() => PassSet.Of(pass));

    /// <summary>A fee is paid once a pass, a set-up once a product, whoever uses them.</summary>
    [Fact]
    public void A_book_counts_every_fee_and_every_product_once()
    {
        var book = new PassBook(
            [new(0, default, 200, 0, -1), new(1, default, 30, -1, -1, 0), new(2, default, 500, 0, -1), new(3, default, 70, 1, -1)],
            [1000, 4000]
        );
        book.CostOf(PassSet.None).ShouldBe(0);
        book.CostOf(PassSet.Of([0, 1])).ShouldBe(1230);
        book.CostOf(PassSet.Of([0, 2])).ShouldBe(1700, "one mix for both");
        book.CostOf(PassSet.Of([0, 1, 2, 3])).ShouldBe(5800);
    }
}
