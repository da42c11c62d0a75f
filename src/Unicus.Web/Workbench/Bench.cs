using Unicus.Store;
using Unicus.Web.Shell;

namespace Unicus.Web.Workbench;

/// <summary>What every chapter of the workbench works with.</summary>
public sealed class Bench(ShopReading reading, ProductReading goods, ChangeProduct products, PutAway putAway, Proofs proofs, Visit visit)
{
    public ShopReading Reading => reading;
    public ProductReading Goods => goods;
    public ChangeProduct Products => products;
    public PutAway PutAway => putAway;
    public Proofs Proofs => proofs;
    public Visit Visit => visit;
}
